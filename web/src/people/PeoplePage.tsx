import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { Link } from 'react-router';
import { api, asProblem, type Group, type Member, type People, type SchoolRole } from '../shared/api/client';
import { formatDay, formatMoment } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { usePeople } from '../shared/data/usePeople';
import { Told } from '../shared/parts/Told';
import { useUndo } from '../shared/data/undo';
import { useChosen } from '../shared/useChosen';
import { useInTurn } from '../shared/useInTurn';
import './people.scss';

/** Runs a change of the people, tells what is wrong with it, and loads them again. */
const useRun = () => {
  const { t } = useTexts();
  const queries = useQueryClient();
  const { tell } = useUndo();
  const { run: inTurn, problem } = useInTurn();
  const run = (work: () => Promise<unknown>, done?: string, name?: string) =>
    inTurn(async () => {
      await work();
      await queries.invalidateQueries({ queryKey: ['people'] });
      if (done) tell(done);
    }, name);
  return { run, problem: problem && problemText(t, problem) };
};

/** Who is of the school, who is invited, and the groups to share with. */
export const PeoplePage = ({ isAdministrator, me }: { isAdministrator: boolean; me: string }) => {
  const { t } = useTexts();
  const people = usePeople();
  if (people.error) return <Told problem={asProblem(people.error)} />;
  if (!people.data) return <p className="loading">{t('loading')}</p>;
  return (
    <main className="people">
      <div className="page-head">
        <h1>{t('people.title')}</h1>
        <p className="quiet">{t(isAdministrator ? 'people.hint' : 'people.hintMember')}</p>
      </div>
      <div className="people-body">
        <section aria-labelledby="members-head">
          <h2 id="members-head">{t('people.members')}</h2>
          <ul>
            {people.data.people.map((one) => (
              <MemberRow key={one.id} member={one} isMine={one.id === me} isAdministrator={isAdministrator} />
            ))}
          </ul>
        </section>
        {isAdministrator && <Invite people={people.data} />}
        {isAdministrator && <UnsentMails />}
        {people.data.left.length > 0 && <Left left={people.data.left} />}
        <section aria-labelledby="groups-head">
          <h2 id="groups-head">{t('people.groups')}</h2>
          {people.data.groups.length === 0 && <p className="quiet">{t('people.noGroups')}</p>}
          {people.data.groups.map((group) => (
            <GroupEditor key={group.id} group={group} members={people.data.people} isAdministrator={isAdministrator} />
          ))}
          {isAdministrator && <NewGroup />}
        </section>
      </div>
    </main>
  );
};

interface RowProps {
  member: Member;
  isMine: boolean;
  isAdministrator: boolean;
}

const MemberRow = ({ member, isMine, isAdministrator }: RowProps) => {
  const { t } = useTexts();
  const { run, problem } = useRun();
  const [asking, setAsking] = useState(false);
  const { choose, seen } = useChosen<SchoolRole>();
  const set = (role: SchoolRole) =>
    choose(
      member.id,
      role,
      run(() => api.setSchoolRole(member.id, role), t('people.roleSet', { name: member.name })),
    );
  return (
    <li aria-label={member.name}>
      <span className="person-name">
        {member.name} <span className="quiet">{member.email}</span>
      </span>
      {isAdministrator ? (
        <Form.Select
          size="sm"
          aria-label={t('people.roleOf', { name: member.name })}
          value={seen(member.id, member.role)}
          onChange={(e) => set(e.target.value as SchoolRole)}
        >
          <option value="member">{t('people.role.member')}</option>
          <option value="administrator">{t('people.role.administrator')}</option>
        </Form.Select>
      ) : (
        <span>{t(`people.role.${member.role}`)}</span>
      )}
      {isAdministrator && !isMine && (
        <Link to={`/plan?look=${member.id}`} aria-label={t('look.asOne', { name: member.name })}>
          {t('look.short')}
        </Link>
      )}
      {isAdministrator && !isMine && !asking && (
        <Button
          variant="link"
          size="sm"
          aria-label={t('people.removeOne', { name: member.name })}
          onClick={() => setAsking(true)}
        >
          {t('facts.takeOutShort')}
        </Button>
      )}
      {isAdministrator && (
        <details className="person-more">
          <summary aria-label={t('people.moreOf', { name: member.name })}>{t('people.more')}</summary>
          <a href={`/api/people/${member.id}/data`} download>
            {t('people.data')}
          </a>
          <Button
            variant="link"
            size="sm"
            onClick={() => void run(() => api.unlockPerson(member.id), t('people.unlocked', { name: member.name }))}
          >
            {t('people.unlock')}
          </Button>
        </details>
      )}
      {asking && (
        <div className="notice" role="alert">
          <p>{t('people.removing', { name: member.name })}</p>
          <Button
            size="sm"
            variant="danger"
            onClick={() => void run(() => api.removePerson(member.id), t('people.removed', { name: member.name }))}
          >
            {t('people.removeNow')}
          </Button>{' '}
          <Button size="sm" variant="outline-primary" onClick={() => setAsking(false)}>
            {t('cancel')}
          </Button>
        </div>
      )}
      {problem && (
        <p className="field-problem" role="alert">
          {problem}
        </p>
      )}
    </li>
  );
};

/** Mail that could not be sent, in the mail server's own words: mostly an address that is mistyped. */
const UnsentMails = () => {
  const { t, language } = useTexts();
  const mails = useQuery({ queryKey: ['people', 'mails'], queryFn: api.mails, staleTime: 30_000 });
  if (!mails.data?.length) return null;
  return (
    <section aria-labelledby="mails-head">
      <h2 id="mails-head">{t('people.mails')}</h2>
      <ul>
        {mails.data.map((mail) => (
          <li key={mail.id}>
            <span className="person-name">
              {mail.recipient} <span className="quiet">{mail.subject}</span>
            </span>
            <span>{mail.problem}</span>
            <span className="quiet">
              {mail.next
                ? t('people.mailAgain', { when: formatMoment(mail.next, language) })
                : t('people.mailGivenUp', { count: mail.tries })}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
};

/** Who left: their names stand in the history until they are erased. */
const Left = ({ left }: { left: People['left'] }) => {
  const { t } = useTexts();
  const { run, problem } = useRun();
  const [asking, setAsking] = useState<string | null>(null);
  return (
    <section aria-labelledby="left-head">
      <h2 id="left-head">{t('people.left')}</h2>
      <ul>
        {left.map((one) => (
          <li key={one.id}>
            <span className="person-name">{one.name}</span>
            <a href={`/api/people/${one.id}/data`} download>
              {t('people.data')}
            </a>
            <Button
              variant="link"
              size="sm"
              aria-label={t('people.eraseOne', { name: one.name })}
              onClick={() => setAsking(one.id)}
            >
              {t('people.erase')}
            </Button>
            {asking === one.id && (
              <div className="notice" role="alert">
                <p>{t('people.erasing', { name: one.name })}</p>
                <Button
                  size="sm"
                  variant="danger"
                  onClick={() => void run(() => api.erasePerson(one.id), t('people.erased'))}
                >
                  {t('people.eraseNow')}
                </Button>{' '}
                <Button size="sm" variant="outline-primary" onClick={() => setAsking(null)}>
                  {t('cancel')}
                </Button>
              </div>
            )}
          </li>
        ))}
      </ul>
      {problem && (
        <p className="field-problem" role="alert">
          {problem}
        </p>
      )}
    </section>
  );
};

const Invite = ({ people }: { people: People }) => {
  const { t, language } = useTexts();
  const { run, problem } = useRun();
  const [email, setEmail] = useState('');
  const [role, setRole] = useState<SchoolRole>('member');
  const send = async (e: SubmitEvent) => {
    e.preventDefault();
    // The next one may be typed already.
    if (await run(() => api.invite(email, role), t('people.invited', { email }), email))
      setEmail((now) => (now === email ? '' : now));
  };
  return (
    <section aria-labelledby="invite-head">
      <h2 id="invite-head">{t('people.invite')}</h2>
      <Form className="invite" noValidate onSubmit={(e) => void send(e)}>
        <Form.Control
          size="sm"
          type="email"
          aria-label={t('people.email')}
          placeholder={t('people.email')}
          value={email}
          isInvalid={problem !== null}
          onChange={(e) => setEmail(e.target.value)}
        />
        <Form.Select
          size="sm"
          aria-label={t('people.invitedAs')}
          value={role}
          onChange={(e) => setRole(e.target.value as SchoolRole)}
        >
          <option value="member">{t('people.role.member')}</option>
          <option value="administrator">{t('people.role.administrator')}</option>
        </Form.Select>
        <Button type="submit" size="sm" disabled={!email.trim()}>
          {t('people.send')}
        </Button>
      </Form>
      {problem && (
        <p className="field-problem" role="alert">
          {problem}
        </p>
      )}
      {people.invitations.length > 0 && (
        <ul aria-label={t('people.open')}>
          {people.invitations.map((one) => (
            <li key={one.id}>
              <span className="person-name">
                {one.email} <span className="quiet">{t(`people.role.${one.role}`)}</span>
              </span>
              <span className="quiet">
                {t('people.until', {
                  date: formatDay(one.expiresAt.slice(0, 10), language, { day: 'numeric', month: 'long' }),
                })}
              </span>
              <Button
                variant="link"
                size="sm"
                aria-label={t('people.takeBackOne', { email: one.email })}
                onClick={() => void run(() => api.takeBackInvitation(one.id))}
              >
                {t('people.takeBack')}
              </Button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
};

const NewGroup = () => {
  const { t } = useTexts();
  const { run, problem } = useRun();
  const [name, setName] = useState('');
  return (
    <Form
      className="invite"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        void run(() => api.addGroup(name), undefined, name).then(
          (ok) => ok && setName((now) => (now === name ? '' : now)),
        );
      }}
    >
      <Form.Control
        size="sm"
        aria-label={t('people.newGroup')}
        placeholder={t('people.newGroup')}
        value={name}
        isInvalid={problem !== null}
        onChange={(e) => setName(e.target.value)}
      />
      <Button type="submit" size="sm" variant="outline-primary" disabled={!name.trim()}>
        {t('people.addGroup')}
      </Button>
      {problem && (
        <p className="field-problem" role="alert">
          {problem}
        </p>
      )}
    </Form>
  );
};

const GroupEditor = ({
  group,
  members,
  isAdministrator,
}: {
  group: Group;
  members: Member[];
  isAdministrator: boolean;
}) => {
  const { t } = useTexts();
  const { run, problem } = useRun();
  const { choose, seen } = useChosen<boolean>();
  const put = (personId: string, isIn: boolean) =>
    choose(
      personId,
      isIn,
      run(() => api.changeGroup(group.id, isIn ? { comes: [personId] } : { goes: [personId] })),
    );
  const inIt = members.filter((m) => group.personIds.includes(m.id));
  return (
    <details className="group">
      <summary>
        <strong>{group.name}</strong>{' '}
        <span className="quiet">{inIt.map((m) => m.name).join(', ') || t('people.nobody')}</span>
      </summary>
      {isAdministrator && (
        <>
          <div className="group-people" role="group" aria-label={t('people.whoIsIn', { name: group.name })}>
            {members.map((m) => (
              <Form.Check
                key={m.id}
                id={`${group.id} ${m.id}`}
                label={m.name}
                checked={seen(m.id, group.personIds.includes(m.id))}
                onChange={(e) => put(m.id, e.target.checked)}
              />
            ))}
          </div>
          <Button variant="link" size="sm" onClick={() => void run(() => api.removeGroup(group.id))}>
            {t('people.removeGroup')}
          </Button>
        </>
      )}
      {problem && (
        <p className="field-problem" role="alert">
          {problem}
        </p>
      )}
    </details>
  );
};
