import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import type { ApiProblem, Look, OutletView, Publication, Theme } from '../shared/api/client';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { problemText, useTexts } from '../shared/i18n';
import { PictureField } from '../event/fields/PictureField';
import { Settled } from './Choices';

export const VIEWS: OutletView[] = ['month', 'list', 'week', 'day', 'upcoming', 'cards', 'small'];
/** The languages visitors read, by their own names. */
const READ_IN = { en: 'English', fr: 'Français', de: 'Deutsch', es: 'Español', ar: 'العربية' };
const PRESETS: NonNullable<Theme['preset']>[] = ['paper', 'plain', 'slate', 'brick', 'stark', 'own'];
const PARTS = ['showsTitle', 'showsNavigation', 'showsKey', 'showsZone', 'showsSubscribe', 'showsPrint'] as const;

interface Props {
  look: Look;
  firstView: OutletView;
  language: string;
  publication: Publication | null;
  problem: ApiProblem | null;
  onLook: (look: Look) => void;
  onFirstView: (view: OutletView) => void;
  onLanguage: (language: string) => void;
}

/** How the page and the embeds look. Every choice is seen in the preview beside it. */
export const LookFields = ({
  look,
  firstView,
  language,
  publication,
  problem,
  onLook,
  onFirstView,
  onLanguage,
}: Props) => {
  const { t } = useTexts();
  const set = (change: Partial<Look>) => onLook({ ...look, ...change });
  const views = look.views ?? [];
  const number = (text: string, otherwise: number) => (text.trim() === '' ? otherwise : Math.trunc(Number(text)));
  const wrong = (field: string) => (
    <FieldProblem text={problem?.field === `look.${field}` ? problemText(t, problem) : null} />
  );
  return (
    <>
      <div className="choice-line">
        <Form.Select
          size="sm"
          aria-label={t('publish.firstView')}
          value={firstView}
          onChange={(e) => onFirstView(e.target.value as OutletView)}
        >
          {VIEWS.map((view) => (
            <option key={view} value={view}>
              {t('publish.opensWith', { view: t(`publish.views.${view}`) })}
            </option>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          aria-label={t('publish.language')}
          value={language}
          onChange={(e) => onLanguage(e.target.value)}
        >
          {Object.entries(READ_IN).map(([code, name]) => (
            <option key={code} value={code} lang={code}>
              {name}
            </option>
          ))}
        </Form.Select>
      </div>
      <fieldset className="checks-line">
        <legend>{t('publish.visitorsViews')}</legend>
        {VIEWS.map((view) => (
          <Form.Check
            key={view}
            inline
            id={`view-${view}`}
            label={t(`publish.views.${view}`)}
            checked={view === firstView || views.includes(view)}
            disabled={view === firstView}
            onChange={(e) =>
              set({
                views: e.target.checked
                  ? VIEWS.filter((v) => v === view || views.includes(v))
                  : views.filter((v) => v !== view),
              })
            }
          />
        ))}
      </fieldset>
      <ThemeFields
        theme={look.theme ?? {}}
        publication={publication}
        problem={problem}
        onTheme={(theme) => set({ theme })}
      />
      <details className="narrowing">
        <summary>{t('publish.parts')}</summary>
        <fieldset className="checks-line">
          <legend className="visually-hidden">{t('publish.parts')}</legend>
          {PARTS.map((part) => (
            <Form.Check
              key={part}
              id={part}
              label={t(`publish.part.${part}`)}
              checked={look[part]}
              onChange={(e) => set({ [part]: e.target.checked })}
            />
          ))}
        </fieldset>
        <PictureField picture={look.picture ?? null} onPicture={(picture) => set({ picture })} />
      </details>
      <details className="narrowing">
        <summary>{t('publish.times')}</summary>
        <div className="narrowing-fields">
          <Form.Select
            size="sm"
            aria-label={t('publish.monthOf')}
            value={look.isWholeMonth ? 'whole' : 'coming'}
            onChange={(e) => set({ isWholeMonth: e.target.value === 'whole' })}
          >
            <option value="coming">{t('publish.monthComing')}</option>
            <option value="whole">{t('publish.monthWhole')}</option>
          </Form.Select>
          <Form.Select
            size="sm"
            aria-label={t('publish.zoneOf')}
            value={look.isReadersZone ? 'reader' : 'school'}
            onChange={(e) => set({ isReadersZone: e.target.value === 'reader' })}
          >
            <option value="school">{t('publish.zoneSchool')}</option>
            <option value="reader">{t('publish.zoneReader')}</option>
          </Form.Select>
          <Form.Select
            size="sm"
            aria-label={t('publish.hours')}
            value={look.hours ?? 'language'}
            onChange={(e) => set({ hours: e.target.value as Look['hours'] })}
          >
            {(['language', 'twelve', 'twentyFour'] as const).map((hours) => (
              <option key={hours} value={hours}>
                {t(`publish.hour.${hours}`)}
              </option>
            ))}
          </Form.Select>
          <Form.Select
            size="sm"
            aria-label={t('publish.weekStart')}
            value={look.weekStart}
            onChange={(e) => set({ weekStart: Number(e.target.value) })}
          >
            {([1, 6, 7] as const).map((day) => (
              <option key={day} value={day}>
                {t(`publish.weekFrom.${day}`)}
              </option>
            ))}
          </Form.Select>
        </div>
      </details>
      <details className="narrowing">
        <summary>{t('publish.lists')}</summary>
        <div className="narrowing-fields">
          <Settled
            label={t('publish.count')}
            type="number"
            min={1}
            value={String(look.count)}
            onValue={(text) => set({ count: number(text, 6) })}
          />
          <Settled
            label={t('publish.newsDays')}
            type="number"
            min={0}
            value={String(look.newsDays)}
            onValue={(text) => set({ newsDays: number(text, 0) })}
          />
          {(['isLatestFirst', 'groupsByDay', 'isOnEachDay', 'showsDescriptions'] as const).map((part) => (
            <Form.Check
              key={part}
              id={part}
              label={t(`publish.part.${part}`)}
              checked={look[part]}
              onChange={(e) => set({ [part]: e.target.checked })}
            />
          ))}
          <Settled
            label={t('publish.emptyText')}
            value={look.emptyText ?? ''}
            maxLength={200}
            placeholder={t('publish.emptyPlaceholder')}
            onValue={(emptyText) => set({ emptyText })}
          />
        </div>
        {wrong('count')}
        {wrong('newsDays')}
      </details>
    </>
  );
};

interface ThemeProps {
  theme: Partial<Theme>;
  publication: Publication | null;
  problem: ApiProblem | null;
  onTheme: (theme: Theme) => void;
}

const ThemeFields = ({ theme, publication, problem, onTheme }: ThemeProps) => {
  const { t } = useTexts();
  const full: Theme = { corner: 3, hasBorder: false, ...theme };
  const set = (change: Partial<Theme>) => onTheme({ ...full, ...change });
  const preset = full.preset ?? 'paper';
  return (
    <fieldset className="theme-fields">
      <legend>{t('publish.colours')}</legend>
      <div className="swatches" role="radiogroup" aria-label={t('publish.colours')}>
        {PRESETS.map((p) => (
          <label key={p} className={`swatch swatch-${p}`}>
            <input type="radio" name="preset" checked={preset === p} onChange={() => set({ preset: p })} />
            <span aria-hidden="true" className="sample" style={p === 'own' ? ownColours(full) : undefined}>
              Aa
            </span>
            {t(`publish.preset.${p}`)}
          </label>
        ))}
      </div>
      {preset === 'own' && (
        <div className="own-colours">
          {(['ground', 'ink', 'accent'] as const).map((field) => (
            <label key={field}>
              <ColourField
                value={full[field] ?? '#ffffff'}
                label={t(`publish.colour.${field}`)}
                onColour={(c) => set({ [field]: c })}
              />
              {t(`publish.colour.${field}`)}
            </label>
          ))}
        </div>
      )}
      {publication?.weak.map((weak) => (
        <p key={weak.field} className="notice" role="status">
          {t('publish.weak', {
            what: t(`publish.colour.${weak.field as 'ink' | 'accent'}`),
            contrast: weak.contrast.toFixed(1),
          })}{' '}
          <Button variant="link" size="sm" className="p-0" onClick={() => set({ [weak.field]: weak.nearest })}>
            <span aria-hidden="true" className="dot" style={{ background: weak.nearest }} />
            {t('publish.takeNearest', { colour: weak.nearest })}
          </Button>
        </p>
      ))}
      <FieldProblem
        text={
          problem?.field?.startsWith('look.theme') && problem.field !== 'look.theme.css'
            ? problemText(t, problem)
            : null
        }
      />
      <details className="narrowing">
        <summary>{t('publish.type')}</summary>
        <div className="narrowing-fields">
          <Form.Select
            size="sm"
            aria-label={t('publish.letters')}
            value={full.type ?? 'ours'}
            onChange={(e) => set({ type: e.target.value as Theme['type'] })}
          >
            {(['ours', 'device', 'serif'] as const).map((type) => (
              <option key={type} value={type}>
                {t(`publish.letter.${type}`)}
              </option>
            ))}
          </Form.Select>
          <Form.Select
            size="sm"
            aria-label={t('publish.light')}
            disabled={preset === 'own'}
            value={full.light ?? 'asPlaced'}
            onChange={(e) => set({ light: e.target.value as Theme['light'] })}
          >
            {(['asPlaced', 'light', 'dark', 'reader'] as const).map((light) => (
              <option key={light} value={light}>
                {t(`publish.lights.${light}`)}
              </option>
            ))}
          </Form.Select>
          <Settled
            label={t('publish.corner')}
            type="number"
            min={0}
            value={String(full.corner)}
            onValue={(text) => set({ corner: Math.trunc(Number(text)) || 0 })}
          />
          <Form.Check
            id="has-border"
            label={t('publish.border')}
            checked={full.hasBorder}
            onChange={(e) => set({ hasBorder: e.target.checked })}
          />
        </div>
        <CssField css={full.css ?? ''} removed={publication?.removedCss ?? []} onCss={(css) => set({ css })} />
      </details>
    </fieldset>
  );
};

const ownColours = (theme: Theme) => ({
  background: theme.ground ?? '#fff',
  color: theme.ink ?? '#000',
  borderColor: theme.accent ?? '#000',
});

/** A colour counts when the picker is closed: on the way there every shade would be one. */
const ColourField = ({
  value,
  label,
  onColour,
}: {
  value: string;
  label: string;
  onColour: (colour: string) => void;
}) => {
  const [picked, setPicked] = useState<string | null>(null);
  const settle = () => {
    if (picked !== null && picked !== value) onColour(picked);
    setPicked(null);
  };
  return (
    <input
      type="color"
      aria-label={label}
      value={picked ?? value}
      onInput={(e) => setPicked(e.currentTarget.value)}
      onBlur={settle}
    />
  );
};

const CssField = ({ css, removed, onCss }: { css: string; removed: string[]; onCss: (css: string) => void }) => {
  const { t } = useTexts();
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <div className="css-field">
      <label>
        {t('publish.css')}
        <Form.Control
          as="textarea"
          rows={4}
          spellCheck={false}
          maxLength={10_000}
          placeholder=".outlet-title { text-transform: uppercase }"
          value={typed ?? css}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={() => {
            if (typed !== null && typed !== css) onCss(typed);
            setTyped(null);
          }}
        />
      </label>
      {removed.length > 0 && (
        <div className="notice" role="status">
          <p>{t('publish.cssRemoved')}</p>
          <ul>
            {removed.map((text) => (
              <li key={text}>
                <code>{text}</code>
              </li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
};
