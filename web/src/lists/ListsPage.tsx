import { useQuery } from '@tanstack/react-query';
import { Fragment, useState, type SubmitEvent, type ReactNode } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { api, asProblem, type Category, type Lists, type Place } from '../shared/api/client';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { useKeptForm } from '../shared/useKeptForm';
import { problemText, useTexts } from '../shared/i18n';
import { LimitSelect } from '../shared/parts/LimitSelect';
import { Told } from '../shared/parts/Told';
import { useActions } from '../shared/data/actions';
import './lists.scss';
import { TemplateList } from './TemplateList';

/** What the school keeps for all its calendars: places, categories, and the limits it holds to. */
export const ListsPage = () => {
  const { t } = useTexts();
  const lists = useQuery({ queryKey: ['lists'], queryFn: api.lists });
  if (lists.error) return <Told problem={asProblem(lists.error)} />;
  if (!lists.data) return <p className="loading">{t('loading')}</p>;
  return <ListsEditor lists={lists.data} />;
};

const ListsEditor = ({ lists }: { lists: Lists }) => {
  const { t } = useTexts();
  const actions = useActions();
  const form = useKeptForm('lists', lists);
  const { base, draft, problem, isDirty: dirty, type: setDraft, settle } = form;
  const [busy, setBusy] = useState(false);
  const wrong = (...fields: string[]) =>
    problem?.field && fields.includes(problem.field) ? problemText(t, problem) : null;
  const save = async (version: number) => {
    setBusy(true);
    try {
      settle(await actions.keepLists({ ...draft, version }), draft);
    } catch (error) {
      form.refuse(asProblem(error));
    } finally {
      setBusy(false);
    }
  };
  const stale = problem?.code === 'stale_version' ? (problem.current as Lists) : null;
  const isPlaced =
    problem?.field && /^(categories|places|noticeDays|testsADay|maxFileMegabytes|mapPattern)/.test(problem.field);
  const setPlace = (at: number, change: Partial<Place>) =>
    setDraft({ ...draft, places: draft.places.map((p, i) => (i === at ? { ...p, ...change } : p)) });
  const setCategory = (at: number, change: Partial<Category>) =>
    setDraft({ ...draft, categories: draft.categories.map((c, i) => (i === at ? { ...c, ...change } : c)) });
  const number = (text: string) => (text === '' ? null : Number(text));

  return (
    <main className="lists">
      <div className="page-head">
        <h1>{t('lists.title')}</h1>
        <p className="quiet">{t('lists.hint')}</p>
      </div>
      <form
        noValidate
        onSubmit={(e: SubmitEvent) => {
          e.preventDefault();
          void save(base.version);
        }}
      >
        <section aria-labelledby="places-head">
          <h2 id="places-head">{t('lists.places')}</h2>
          <Rows
            heads={[
              t('lists.name'),
              t('lists.capacity'),
              t('lists.address'),
              t('lists.latitude'),
              t('lists.longitude'),
            ]}
            empty={t('lists.noPlaces')}
            rows={draft.places.map((place, i) => ({
              name: place.name || t('lists.newPlace'),
              problem: wrong(`places.${i}.name`, `places.${i}.capacity`, `places.${i}.address`, `places.${i}.latitude`),
              onRemove: () => setDraft({ ...draft, places: draft.places.filter((_, other) => other !== i) }),
              cells: [
                <Form.Control
                  key="name"
                  size="sm"
                  aria-label={t('lists.name')}
                  value={place.name}
                  isInvalid={wrong(`places.${i}.name`) !== null}
                  onChange={(e) => setPlace(i, { name: e.target.value })}
                />,
                <Form.Control
                  key="capacity"
                  size="sm"
                  type="number"
                  min={1}
                  aria-label={t('lists.capacity')}
                  value={place.capacity ?? ''}
                  onChange={(e) => setPlace(i, { capacity: number(e.target.value) })}
                />,
                <Form.Control
                  key="address"
                  size="sm"
                  aria-label={t('lists.address')}
                  value={place.address ?? ''}
                  onChange={(e) => setPlace(i, { address: e.target.value })}
                />,
                <Form.Control
                  key="latitude"
                  size="sm"
                  type="number"
                  step="any"
                  aria-label={t('lists.latitude')}
                  value={place.latitude ?? ''}
                  onChange={(e) => setPlace(i, { latitude: number(e.target.value) })}
                />,
                <Form.Control
                  key="longitude"
                  size="sm"
                  type="number"
                  step="any"
                  aria-label={t('lists.longitude')}
                  value={place.longitude ?? ''}
                  onChange={(e) => setPlace(i, { longitude: number(e.target.value) })}
                />,
              ],
            }))}
          />
          <Button
            size="sm"
            variant="outline-primary"
            onClick={() =>
              setDraft({
                ...draft,
                places: [
                  ...draft.places,
                  { id: null, name: '', capacity: null, address: '', latitude: null, longitude: null },
                ],
              })
            }
          >
            {t('lists.addPlace')}
          </Button>
        </section>
        <section aria-labelledby="categories-head">
          <h2 id="categories-head">{t('lists.categories')}</h2>
          <Rows
            heads={[t('lists.name'), t('lists.partOf'), t('lists.assessment'), t('lists.reach')]}
            empty={t('lists.noCategories')}
            rows={draft.categories.map((category, i) => ({
              name: category.name || t('lists.newCategory'),
              problem: wrong(`categories.${i}.name`, `categories.${i}.parentId`),
              onRemove: () =>
                setDraft({
                  ...draft,
                  categories: draft.categories
                    .filter((_, other) => other !== i)
                    .map((c) => (c.parentId !== null && c.parentId === category.id ? { ...c, parentId: null } : c)),
                }),
              cells: [
                <Form.Control
                  key="name"
                  size="sm"
                  aria-label={t('lists.name')}
                  value={category.name}
                  isInvalid={wrong(`categories.${i}.name`) !== null}
                  onChange={(e) => setCategory(i, { name: e.target.value })}
                />,
                <Form.Select
                  key="parent"
                  size="sm"
                  aria-label={t('lists.partOf')}
                  value={category.parentId ?? ''}
                  onChange={(e) => setCategory(i, { parentId: e.target.value || null })}
                >
                  <option value="">–</option>
                  {draft.categories
                    .filter((c) => c.id && !c.parentId && c !== category)
                    .map((c) => (
                      <option key={c.id} value={c.id ?? ''}>
                        {c.name}
                      </option>
                    ))}
                </Form.Select>,
                <Form.Check
                  key="assessment"
                  id={`assessment-${i}`}
                  aria-label={t('lists.assessment')}
                  checked={category.isAssessment}
                  onChange={(e) => setCategory(i, { isAssessment: e.target.checked })}
                />,
                <LimitSelect
                  key="reach"
                  label={t('lists.reach')}
                  limit={category.reach}
                  onLimit={(reach) => setCategory(i, { reach })}
                />,
              ],
            }))}
          />
          <Button
            size="sm"
            variant="outline-primary"
            onClick={() =>
              setDraft({
                ...draft,
                categories: [
                  ...draft.categories,
                  { id: crypto.randomUUID(), name: '', parentId: null, isAssessment: false, reach: null },
                ],
              })
            }
          >
            {t('lists.addCategory')}
          </Button>
        </section>
        <section aria-labelledby="limits-head">
          <h2 id="limits-head">{t('lists.limits')}</h2>
          {(['noticeDays', 'testsADay', 'maxFileMegabytes'] as const).map((limit) => (
            <Fragment key={limit}>
              <label className="limit">
                {t(`lists.${limit}`)}
                <Form.Control
                  size="sm"
                  type="number"
                  min={0}
                  value={draft[limit]}
                  isInvalid={wrong(limit) !== null}
                  onChange={(e) => setDraft({ ...draft, [limit]: Math.trunc(Number(e.target.value)) })}
                />
              </label>
              <FieldProblem text={wrong(limit)} />
            </Fragment>
          ))}
          <label className="limit limit-wide">
            {t('lists.map')}
            <Form.Control
              size="sm"
              placeholder="https://map.example/?q={address}"
              value={draft.mapPattern}
              isInvalid={wrong('mapPattern') !== null}
              onChange={(e) => setDraft({ ...draft, mapPattern: e.target.value })}
            />
          </label>
          <FieldProblem text={wrong('mapPattern')} />
          <label className="limit">
            {t('lists.dateOrder')}
            <Form.Select
              size="sm"
              value={String(draft.isMonthFirst)}
              onChange={(e) => setDraft({ ...draft, isMonthFirst: e.target.value === 'true' })}
            >
              <option value="false">{t('lists.dayFirst')}</option>
              <option value="true">{t('lists.monthFirst')}</option>
            </Form.Select>
          </label>
        </section>
        <section aria-labelledby="templates-head">
          <h2 id="templates-head">{t('templates.title')}</h2>
          <TemplateList />
        </section>
        {stale && (
          <div className="notice" role="alert">
            <p>{t('lists.stale')}</p>
            <Button onClick={() => void save(stale.version)}>{t('sheet.keepMine')}</Button>{' '}
            <Button variant="outline-primary" onClick={() => settle(stale)}>
              {t('sheet.takeTheirs')}
            </Button>
          </div>
        )}
        {problem && !stale && !isPlaced && <Told problem={problem} />}
        {dirty && (
          <div className="lists-foot">
            <Button type="submit" disabled={busy}>
              {t('lists.save')}
            </Button>
            <Button variant="outline-primary" onClick={() => settle(base)}>
              {t('sheet.putBack')}
            </Button>
          </div>
        )}
      </form>
    </main>
  );
};

interface Row {
  name: string;
  problem: string | null;
  cells: ReactNode[];
  onRemove: () => void;
}

const Rows = ({ heads, rows, empty }: { heads: string[]; rows: Row[]; empty: string }) => {
  const { t } = useTexts();
  if (rows.length === 0) return <p className="quiet">{empty}</p>;
  return (
    <div className="lists-scroll">
      <table>
        <thead>
          <tr>
            {heads.map((head) => (
              <th key={head} scope="col">
                {head}
              </th>
            ))}
            <td />
          </tr>
        </thead>
        <tbody>
          {rows.map((row, i) => (
            <tr key={i} aria-label={row.name}>
              {row.cells.map((cell, at) => (
                <td key={at}>
                  {cell}
                  {at === 0 && <FieldProblem text={row.problem} />}
                </td>
              ))}
              <td>
                <Button
                  variant="link"
                  size="sm"
                  aria-label={t('lists.remove', { name: row.name })}
                  onClick={row.onRemove}
                >
                  {t('facts.takeOutShort')}
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
};
