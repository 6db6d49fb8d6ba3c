import { useIsFetching } from '@tanstack/react-query';
import Button from 'react-bootstrap/Button';
import ButtonGroup from 'react-bootstrap/ButtonGroup';
import Form from 'react-bootstrap/Form';
import { useEffect, useRef, useState } from 'react';
import type { Publication } from '../shared/api/client';
import { useTexts } from '../shared/i18n';
import { usePeople } from '../shared/data/usePeople';
import { queryOf, type Placed } from './codes';
import { ChosenOtherwise, DifferenceList, ProofPanel, ProofStrip, useProof } from './ProofPanel';
import { ReadersPanel, WhyPanel } from './ReadersPanel';

const WIDTHS = ['column', 'side', 'phone', 'whole'] as const;
type Width = (typeof WIDTHS)[number];
const PANELS = ['preview', 'compare', 'proof', 'readers', 'why'] as const;
type Panel = (typeof PANELS)[number];

interface Props {
  publication: Publication | null;
  placed: Placed;
  /** Whether it may be looked at with other eyes than its readers’: who keeps all of it. */
  mayLookAs: boolean;
}

/** The preview, from the real address, and beside it the proof, the readers, and why something is not there yet. */
export const Preview = ({ publication, placed, mayLookAs }: Props) => {
  const { t } = useTexts();
  const [width, setWidth] = useState<Width>('column');
  const [wanted, setPanel] = useState<Panel>('preview');
  const isDraft = publication !== null && (publication.hasChanges || !publication.isPublished);
  const proof = useProof(publication, isDraft);
  // Opening a calendar changes what goes out, and not the publication.
  const isComing = useIsFetching({ queryKey: ['publications'] }) > 0 || proof.isFetching;
  const goesOut = proof.data && !isComing ? `${proof.data.events} ${proof.data.heldBack.length}` : undefined;
  const canCompare = publication !== null && publication.hasChanges && publication.isPublished;
  const panel = wanted === 'compare' && !canCompare ? 'preview' : wanted;
  const panels = PANELS.filter((p) => p !== 'compare' || canCompare);
  return (
    <section className="preview" aria-label={t('publish.preview')}>
      <div className="preview-head">
        {publication && (
          <ButtonGroup size="sm" aria-label={t('publish.panels')}>
            {panels.map((p) => (
              <Button
                key={p}
                variant="outline-primary"
                active={panel === p}
                aria-pressed={panel === p}
                onClick={() => setPanel(p)}
              >
                {t(`publish.panel.${p}`)}
              </Button>
            ))}
          </ButtonGroup>
        )}
        {(panel === 'preview' || panel === 'compare') && (
          <>
            <h2>{t(isDraft ? 'publish.asVisitorWill' : 'publish.asVisitor')}</h2>
            <ButtonGroup size="sm" aria-label={t('publish.width')}>
              {WIDTHS.map((w) => (
                <Button
                  key={w}
                  variant="outline-primary"
                  active={width === w}
                  aria-pressed={width === w}
                  onClick={() => setWidth(w)}
                >
                  {t(`publish.widths.${w}`)}
                </Button>
              ))}
            </ButtonGroup>
          </>
        )}
      </div>
      {(!publication || panel === 'preview') && (
        <div className={`preview-paper width-${width}`}>
          {publication && !publication.takenDown ? (
            <>
              {width !== 'whole' && <Site />}
              <Frame
                key={`${publication.version} ${publication.changedAt} ${width} ${isDraft ? 'draft' : ''}`}
                address={addressOf(publication, width, placed, isDraft)}
                goesOut={goesOut}
              />
            </>
          ) : (
            <p className="preview-none">{publication ? t('publish.isDown') : t('publish.firstStep')}</p>
          )}
        </div>
      )}
      {publication && panel === 'compare' && (
        <div className="compare">
          {[false, true].map((after) => (
            <figure key={String(after)}>
              <figcaption>{t(after ? 'publish.after' : 'publish.before')}</figcaption>
              <iframe
                key={`${publication.version} ${width}`}
                title={t(after ? 'publish.after' : 'publish.before')}
                src={addressOf(publication, width, placed, after)}
              />
            </figure>
          ))}
          <section aria-label={t('publish.whatChanges')}>
            <h3>{t('publish.whatChanges')}</h3>
            {proof.data?.waiting ? <DifferenceList differences={proof.data.waiting} /> : <p>{t('loading')}</p>}
            {proof.data && <ChosenOtherwise choices={proof.data.waitingChoices ?? []} />}
          </section>
        </div>
      )}
      {publication && panel === 'proof' && <ProofPanel publication={publication} />}
      {publication && panel === 'readers' && <ReadersPanel publication={publication} />}
      {publication && panel === 'why' && <WhyPanel publication={publication} />}
      {publication && !publication.takenDown && proof.data && panel === 'preview' && <ProofStrip proof={proof.data} />}
      {publication && mayLookAs && panel === 'preview' && <LookAs publication={publication} />}
    </section>
  );
};

/** What a visitor sees, loaded again when it is heard that something else goes out of it than before. */
const Frame = ({ address, goesOut }: { address: string; goesOut: string | undefined }) => {
  const { t } = useTexts();
  const frame = useRef<HTMLIFrameElement>(null);
  const known = useRef<string>(undefined);
  useEffect(() => {
    if (goesOut === undefined) return;
    if (known.current !== undefined && known.current !== goesOut) frame.current?.setAttribute('src', address);
    known.current = goesOut;
  }, [goesOut, address]);
  return <iframe ref={frame} title={t('publish.frame')} src={address} />;
};

const addressOf = (publication: Publication, width: Width, placed: Placed, isDraft: boolean): string => {
  const query =
    width === 'whole' ? '' : queryOf(width === 'side' && !placed.view ? { ...placed, view: 'upcoming' } : placed);
  if (!isDraft) return `/p/${publication.key}${width === 'whole' ? '' : '/embed'}${query}`;
  const own = `/api/publications/${publication.id}/look/${width === 'whole' ? 'page' : 'embed'}?look=draft`;
  return own + query.replace('?', '&');
};

/** The site around it, as lines. */
const Site = () => (
  <div className="preview-text" aria-hidden="true">
    <span />
    <span />
  </div>
);

/** The page and the feed through other eyes. */
const LookAs = ({ publication }: { publication: Publication }) => {
  const { t } = useTexts();
  const people = usePeople();
  const [look, setLook] = useState('members');
  const who =
    people.data?.people.find((p) => p.id === look)?.name ??
    t(`look.${look as 'members' | 'linkHolders' | 'everyone'}`, { defaultValue: '' });
  const link = (what: string) => `/api/publications/${publication.id}/look/${what}?look=${look}`;
  return (
    <div className="look-as">
      <Form.Select
        size="sm"
        aria-label={t('publish.lookAs')}
        title={t('publish.lookHint')}
        value={look}
        onChange={(e) => setLook(e.target.value)}
      >
        {(['members', 'linkHolders', 'everyone'] as const).map((audience) => (
          <option key={audience} value={audience}>
            {t('publish.lookAs')}: {t(`look.${audience}`)}
          </option>
        ))}
        {people.data?.people.map((p) => (
          <option key={p.id} value={p.id}>
            {t('publish.lookAs')}: {p.name}
          </option>
        ))}
      </Form.Select>
      <a href={link('page')} target="_blank" rel="noopener">
        {t('publish.lookPage', { who })}
      </a>
      <a href={link('feed.ics')}>{t('publish.lookFeed', { who })}</a>
    </div>
  );
};
