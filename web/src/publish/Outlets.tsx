import Form from 'react-bootstrap/Form';
import type { ApiProblem, Choices, Look, OutletView, Publication } from '../shared/api/client';
import { CopyField } from '../shared/parts/CopyField';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { problemText, useTexts } from '../shared/i18n';
import { Settled } from './Choices';
import { codeOf, FORMS, measure, type Placed } from './codes';
import { VIEWS } from './LookFields';

const FEED_FIELDS = ['place', 'description', 'links', 'files', 'pictures', 'categories', 'reminders'] as const;
const OTHER_FORMS = [
  ['atom.xml', 'atom'],
  ['dates.json', 'json'],
  ['dates.csv', 'csv'],
  ['feed.json', 'jcal'],
  ['busy.ifb', 'busy'],
  ['snapshot.ics', 'snapshot'],
] as const;

interface Props {
  publication: Publication;
  placed: Placed;
  look: Look;
  choices: Choices;
  problem: ApiProblem | null;
  onPlaced: (placed: Placed) => void;
  onLook: (look: Look) => void;
  onChoices: (choices: Choices) => void;
}

/** What is handed out: the page's link and code, the embed's code, the feed's address, and other forms. */
export const Outlets = ({ publication, placed, look, choices, problem, onPlaced, onLook, onChoices }: Props) => {
  const { t } = useTexts();
  const { links } = publication;
  const put = (change: Partial<Placed>) => onPlaced({ ...placed, ...change });
  const leftOut = choices.leftOut ?? [];
  return (
    <div className="outlets">
      <h4>{t('publish.page')}</h4>
      <CopyField label={t('publish.pageLink')} value={links.page} copyLabel={t('publish.copyPage')} />
      <a href={links.page} target="_blank" rel="noopener">
        {t('publish.openPage')}
      </a>
      <ul className="other-forms">
        <li>
          <a href={`${links.page}/term`} target="_blank" rel="noopener">
            {t('publish.termPlan')}
          </a>
        </li>
        <li>
          <a href={`${links.page}/wall`} target="_blank" rel="noopener">
            {t('publish.wall')}
          </a>
        </li>
      </ul>
      <h4>{t('publish.website')}</h4>
      <div className="narrowing-fields is-wide">
        <Form.Select
          size="sm"
          aria-label={t('publish.form')}
          value={placed.form}
          onChange={(e) => put({ form: e.target.value as Placed['form'] })}
        >
          {FORMS.map((form) => (
            <option key={form} value={form}>
              {t(`publish.forms.${form}`)}
            </option>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          aria-label={t('publish.embedView')}
          value={placed.view ?? ''}
          onChange={(e) => put({ view: (e.target.value || null) as OutletView | null })}
        >
          <option value="">{t('publish.viewAsChosen')}</option>
          {VIEWS.map((view) => (
            <option key={view} value={view}>
              {t(`publish.views.${view}`)}
            </option>
          ))}
        </Form.Select>
        {placed.form === 'fixed' && (
          <Settled label={t('publish.embedWidth')} value={placed.width} onValue={(width) => put({ width })} />
        )}
        {placed.form !== 'script' && (
          <Settled label={t('publish.embedHeight')} value={placed.height} onValue={(height) => put({ height })} />
        )}
        {(placed.view === 'upcoming' || placed.view === 'cards') && (
          <Settled
            label={t('publish.count')}
            type="number"
            min={1}
            value={placed.count?.toString() ?? ''}
            placeholder={String(look.count)}
            onValue={(text) =>
              put({ count: text.trim() === '' ? null : Math.min(30, Math.max(1, Math.trunc(Number(text)) || 1)) })
            }
          />
        )}
      </div>
      <FieldProblem
        text={
          (placed.form === 'fixed' && !measure(placed.width)) || (placed.form !== 'script' && !measure(placed.height))
            ? t('publish.noMeasure')
            : null
        }
      />
      <CopyField
        label={t('publish.embedCode')}
        rows={4}
        value={codeOf(links, publication.title, placed)}
        copyLabel={t('publish.copyCode')}
      />
      <p className="quiet">
        {t(`publish.formHint.${placed.form}`)} {t('publish.oneDateHint')}
      </p>
      <Settled
        label={t('publish.sites')}
        value={(look.sites ?? []).join(', ')}
        placeholder={t('publish.anySite')}
        onValue={(text) => onLook({ ...look, sites: text.split(/[\s,]+/).filter(Boolean) })}
      />
      <FieldProblem text={problem?.field === 'look.sites' ? problemText(t, problem) : null} />
      <h4>{t('publish.feed')}</h4>
      <CopyField label={t('publish.feedLink')} value={links.feed} copyLabel={t('publish.copyFeed')} />
      <CopyField label={t('publish.webcalLink')} value={links.webcal} copyLabel={t('publish.copyWebcal')} />
      <div className="code-line">
        <img src={`/p/${publication.key}/qr.svg`} alt={t('publish.codeAlt')} width="112" height="112" />
        <p className="quiet">
          {t('publish.refresh')}{' '}
          <a href={`/p/${publication.key}/qr.png`} download>
            {t('publish.codePng')}
          </a>{' '}
          <a href={`/p/${publication.key}/qr.svg`} download>
            {t('publish.codeSvg')}
          </a>
        </p>
      </div>
      <fieldset className="checks-line">
        <legend>{t('publish.feedFields')}</legend>
        {FEED_FIELDS.map((field) => (
          <Form.Check
            key={field}
            inline
            id={`feed-${field}`}
            label={t(`publish.feedField.${field}`)}
            checked={!leftOut.includes(field)}
            onChange={(e) =>
              onChoices({
                ...choices,
                leftOut: e.target.checked ? leftOut.filter((f) => f !== field) : [...leftOut, field],
              })
            }
          />
        ))}
      </fieldset>
      <details className="narrowing">
        <summary>{t('publish.otherForms')}</summary>
        <ul className="other-forms">
          {OTHER_FORMS.map(([path, name]) => (
            <li key={path}>
              <a href={`${links.page}/${path}`}>{t(`publish.other.${name}`)}</a>
            </li>
          ))}
        </ul>
      </details>
    </div>
  );
};
