import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import Button from 'react-bootstrap/Button';
import { useParams } from 'react-router';
import { api, asProblem, type Links } from '../shared/api/client';
import { CopyField } from '../shared/parts/CopyField';
import './members.scss';
import { problemText, useTexts } from '../shared/i18n';

/** What the school publishes for its members, with one's own links; by a publication's address straight on to it. */
export const MembersPage = () => {
  const { t } = useTexts();
  const { key } = useParams();
  const publications = useQuery({ queryKey: ['for-members'], queryFn: api.publicationsForMembers });
  const [links, setLinks] = useState<Record<string, Links>>({});
  const [problem, setProblem] = useState<string | null>(null);
  const wanted = publications.data?.find((p) => p.key === key);
  const take = async (id: string, isNew = false) => {
    setProblem(null);
    try {
      const made = await api.myLink(id, isNew);
      setLinks((all) => ({ ...all, [id]: made }));
    } catch (error) {
      setProblem(problemText(t, asProblem(error)));
    }
  };
  const wantedId = wanted?.id;
  useEffect(() => {
    if (!wantedId) return;
    api.myLink(wantedId).then(
      (made) => location.replace(made.page),
      () => undefined,
    );
  }, [wantedId]);
  if (!publications.data)
    return (
      <p className="loading">{publications.error ? problemText(t, asProblem(publications.error)) : t('loading')}</p>
    );
  return (
    <main className="members-page">
      <h1>{t('members.title')}</h1>
      <p className="quiet">{t('members.hint')}</p>
      {publications.data.length === 0 && <p>{t('members.none')}</p>}
      {problem && (
        <p className="notice notice-danger" role="alert">
          {problem}
        </p>
      )}
      <ul>
        {publications.data.map((p) => {
          const own = links[p.id];
          return (
            <li key={p.id}>
              <h2>{p.title}</h2>
              {p.introduction && <p>{p.introduction}</p>}
              {own ? (
                <>
                  <p>
                    <a href={own.page}>{t('members.open')}</a>
                  </p>
                  <CopyField label={t('members.feed')} value={own.feed} copyLabel={t('publish.copyFeed')} />
                  <Button variant="link" size="sm" title={t('members.newHint')} onClick={() => void take(p.id, true)}>
                    {t('members.new')}
                  </Button>{' '}
                  <span className="quiet">{t('members.newHint')}</span>
                </>
              ) : (
                <Button onClick={() => void take(p.id)}>{t('members.link')}</Button>
              )}
            </li>
          );
        })}
      </ul>
    </main>
  );
};
