import { useQuery, useQueryClient } from '@tanstack/react-query';
import Form from 'react-bootstrap/Form';
import { api, type Calendar, type CalendarRole, type Share } from '../shared/api/client';
import { problemText, useTexts } from '../shared/i18n';
import { usePeople } from '../shared/data/usePeople';
import { SheetRow } from '../shared/parts/Sheet';
import { useChosen } from '../shared/useChosen';
import { useInTurn } from '../shared/useInTurn';
import './calendar.scss';

const ROLES: CalendarRole[] = ['keeper', 'editor', 'proposer', 'reader'];

const idOf = (share: Share): string => share.personId ?? share.groupId ?? '';

/** With whom the calendar is shared, and as what. */
export const Roles = ({ calendar }: { calendar: Calendar }) => {
  const { t } = useTexts();
  const queries = useQueryClient();
  const key = ['roles', calendar.id];
  const shares = useQuery({ queryKey: key, queryFn: () => api.roles(calendar.id) });
  const people = usePeople();
  const { run, problem } = useInTurn();
  const isKeeper = calendar.role === 'keeper';
  const { choose, seen } = useChosen<CalendarRole | ''>();
  const change = (work: () => Promise<Share[]>) =>
    run(async () => {
      queries.setQueryData(key, await work());
      await queries.invalidateQueries({ queryKey: ['board'] });
    });
  const set = (who: Pick<Share, 'personId' | 'groupId'>, role: CalendarRole | null) =>
    change(() => api.setRole(calendar.id, { ...who, role }));
  const handOver = (personId: string) => change(() => api.handOver(calendar.id, personId));
  const has = (id: string) => shares.data?.some((s) => s.personId === id || s.groupId === id);
  return (
    <SheetRow label={t('roles.title')}>
      <ul className="roles" aria-label={t('roles.title')}>
        {shares.data?.map((share) => (
          <li key={idOf(share)}>
            <span>
              {share.name}
              {share.groupId && <span className="quiet"> {t('roles.group')}</span>}
            </span>
            {isKeeper ? (
              <Form.Select
                size="sm"
                aria-label={t('roles.of', { name: share.name })}
                value={seen(idOf(share), share.role)}
                onChange={(e) => {
                  const role = e.target.value as CalendarRole | '';
                  choose(idOf(share), role, set(share, role || null));
                }}
              >
                {ROLES.map((role) => (
                  <option key={role} value={role}>
                    {t(`roles.${role}`)}
                  </option>
                ))}
                <option value="">{t('roles.none')}</option>
              </Form.Select>
            ) : (
              <span className="quiet">{t(`roles.${share.role}`)}</span>
            )}
          </li>
        ))}
      </ul>
      {shares.data?.length === 0 && <p className="quiet">{t('roles.administrators')}</p>}
      {isKeeper && (
        <Form.Select
          size="sm"
          aria-label={t('roles.add')}
          value=""
          onChange={(e) => {
            const [kind, id = ''] = e.target.value.split(' ');
            void set(kind === 'group' ? { personId: null, groupId: id } : { personId: id, groupId: null }, 'editor');
          }}
        >
          <option value="">{t('roles.add')}</option>
          {people.data?.groups
            .filter((g) => !has(g.id))
            .map((g) => (
              <option key={g.id} value={`group ${g.id}`}>
                {g.name}
              </option>
            ))}
          {people.data?.people
            .filter((p) => !has(p.id))
            .map((p) => (
              <option key={p.id} value={`person ${p.id}`}>
                {p.name}
              </option>
            ))}
        </Form.Select>
      )}
      {isKeeper && (
        <Form.Select
          size="sm"
          aria-label={t('roles.handOver')}
          value=""
          onChange={(e) => e.target.value && void handOver(e.target.value)}
        >
          <option value="">{t('roles.handOver')}</option>
          {people.data?.people
            .filter((p) => !shares.data?.some((s) => s.personId === p.id && s.role === 'keeper'))
            .map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
        </Form.Select>
      )}
      {problem && (
        <p className="field-problem" role="alert">
          {problemText(t, problem)}
        </p>
      )}
    </SheetRow>
  );
};

/** A calendar for those who do not keep it. */
export const CalendarAbout = ({ calendar }: { calendar: Calendar }) => {
  const { t } = useTexts();
  return (
    <>
      <h2 className="sheet-title">{calendar.title}</h2>
      {calendar.description && <p>{calendar.description}</p>}
      {calendar.role ? <Roles calendar={calendar} /> : <p className="quiet">{t('roles.youRead')}</p>}
      {calendar.role && <p className="quiet">{t('roles.yours', { role: t(`roles.${calendar.role}`) })}</p>}
    </>
  );
};
