import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { Link, NavLink } from 'react-router';
import { useSettings } from '../shared/data/useSettings';
import { dropDrafts } from '../shared/data/draftStorage';
import { useUndo } from '../shared/data/undo';
import { useWaiting } from '../shared/data/useProposals';
import { useOpenChecks } from '../shared/data/useChecks';
import { api, type Session } from '../shared/api/client';
import { LANGUAGES, useTexts, type Language } from '../shared/i18n';
import { currentMode, MODES } from '../shared/theme/mode';
import { Search } from './Search';

const initials = (name: string): string =>
  name
    .split(' ')
    .map((word) => word[0])
    .join('')
    .slice(0, 2);

export const TopBar = ({ session }: { session: Session }) => {
  const { t, language } = useTexts();
  const queries = useQueryClient();
  const open = useOpenChecks();
  const waiting = useWaiting();
  const { keep } = useSettings(session);
  const [mode, showMode] = useState(currentMode);

  const { undoLast, redoLast } = useUndo();
  const screens = [
    { to: '/plan', name: t('nav.plan'), count: 0 },
    { to: '/school-year', name: t('nav.year'), count: 0 },
    // The school’s lists are its administrators’ to keep.
    ...(session.person.role === 'administrator' ? [{ to: '/lists', name: t('nav.lists'), count: 0 }] : []),
    { to: '/checks', name: t('nav.checks'), count: open },
    { to: '/proposals', name: t('nav.proposals'), count: waiting },
    { to: '/elsewhere', name: t('nav.elsewhere'), count: 0 },
    { to: '/publish', name: t('nav.publish'), count: 0 },
  ];

  const signOut = async () => {
    await api.signOut();
    queries.clear();
    dropDrafts();
    location.assign('/');
  };

  return (
    <header className="top-bar">
      <span className="top-school">{session.school.shortName}</span>
      <nav aria-label={t('nav.label')}>
        {screens.map(({ to, name, count }) => (
          <NavLink key={to} to={to}>
            {name}
            {count > 0 && <span className="nav-count">{count}</span>}
          </NavLink>
        ))}
      </nav>
      {/* On a phone there is no room for all of them beside each other. */}
      <Dropdown className="top-menu">
        <Dropdown.Toggle variant="outline-primary" size="sm">
          {t('nav.menu')}
        </Dropdown.Toggle>
        <Dropdown.Menu>
          {screens.map(({ to, name, count }) => (
            <Dropdown.Item key={to} as={NavLink} to={to}>
              {name}
              {count > 0 && <span className="nav-count">{count}</span>}
            </Dropdown.Item>
          ))}
        </Dropdown.Menu>
      </Dropdown>
      <Search />
      <Dropdown align="end" className="top-person">
        <Dropdown.Toggle
          as="button"
          type="button"
          className="person-button"
          aria-label={t('nav.person', { name: session.person.name })}
        >
          {initials(session.person.name)}
        </Dropdown.Toggle>
        <Dropdown.Menu>
          <Dropdown.ItemText>
            <strong>{session.person.name}</strong>
            <br />
            <span className="quiet">{session.school.name}</span>
          </Dropdown.ItemText>
          <Dropdown.Divider />
          <Dropdown.Item as="button" onClick={undoLast}>
            {t('nav.undo')}
          </Dropdown.Item>
          <Dropdown.Item as="button" onClick={redoLast}>
            {t('nav.redo')}
          </Dropdown.Item>
          <Dropdown.Divider />
          <Dropdown.Header>{t('nav.language')}</Dropdown.Header>
          {(Object.keys(LANGUAGES) as Language[]).map((code) => (
            <Dropdown.Item
              as="button"
              key={code}
              lang={code}
              active={language === code}
              onClick={() => void keep({ language: code })}
            >
              {LANGUAGES[code]}
            </Dropdown.Item>
          ))}
          <Dropdown.Divider />
          <Dropdown.Header>{t('nav.theme')}</Dropdown.Header>
          {MODES.map((choice) => (
            <Dropdown.Item
              as="button"
              key={choice}
              active={mode === choice}
              onClick={() => {
                showMode(choice);
                void keep({ theme: choice });
              }}
            >
              {t(`theme.${choice}`)}
            </Dropdown.Item>
          ))}
          <Dropdown.Divider />
          <Dropdown.Item as={Link} to="/account">
            {t('nav.account')}
          </Dropdown.Item>
          <Dropdown.Item as={Link} to="/members">
            {t('members.title')}
          </Dropdown.Item>
          <Dropdown.Item as={Link} to="/people">
            {t('nav.people')}
          </Dropdown.Item>
          {session.person.role === 'administrator' && (
            <Dropdown.Item as={Link} to="/who-sees">
              {t('nav.whoSees')}
            </Dropdown.Item>
          )}
          {session.person.role === 'administrator' && (
            <Dropdown.Item as={Link} to="/log">
              {t('nav.log')}
            </Dropdown.Item>
          )}
          {session.person.role === 'administrator' && (
            <Dropdown.Item as={Link} to="/limits">
              {t('nav.limits')}
            </Dropdown.Item>
          )}
          <Dropdown.Divider />
          <Dropdown.Header>{t('nav.look')}</Dropdown.Header>
          {(['members', 'linkHolders', 'everyone'] as const).map((audience) => (
            <Dropdown.Item key={audience} as={Link} to={`/plan?look=${audience}`}>
              {t(`look.${audience}`)}
            </Dropdown.Item>
          ))}
          <Dropdown.Divider />
          <Dropdown.Item as={Link} to="/bin">
            {t('nav.bin')}
          </Dropdown.Item>
          <Dropdown.Item as="button" onClick={() => void signOut()}>
            {t('nav.signOut')}
          </Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
    </header>
  );
};
