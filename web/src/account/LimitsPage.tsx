import { useQuery } from '@tanstack/react-query';
import { api, asProblem } from '../shared/api/client';
import { sizeText } from '../shared/data/uploads';
import { useTexts } from '../shared/i18n';
import { Bar } from '../shared/parts/Bar';
import { Told } from '../shared/parts/Told';
import './account.scss';

/** How much the school has of what this installation has room for, and may have. */
export const LimitsPage = () => {
  const { t, language } = useTexts();
  const limits = useQuery({ queryKey: ['limits'], queryFn: () => api.limits() });
  const number = new Intl.NumberFormat(language);
  return (
    <main className="account">
      <div className="page-head">
        <h1>{t('limits.title')}</h1>
        <p className="quiet">{t('limits.hint')}</p>
      </div>
      <div className="account-body limits">
        {limits.error && <Told problem={asProblem(limits.error)} />}
        {limits.data?.isDiskLow && (
          <p className="limit-near" role="status">
            {t('limits.disk')}
          </p>
        )}
        {limits.data?.limits.map(({ what, taken, limit, isNear }) => {
          const say = (value: number) => (what === 'storage' ? sizeText(value, language) : number.format(value));
          const name = t(`limits.${what}`);
          return (
            <section key={what}>
              <h2>{name}</h2>
              <div>
                <Bar
                  name={name}
                  share={limit === 0 ? 1 : taken / limit}
                  {...(isNear && { className: 'progress-near' })}
                />
                <p>
                  {t('limits.of', { taken: say(taken), limit: say(limit) })}
                  {isNear && (
                    <strong className="limit-near"> {t(taken >= limit ? 'limits.reached' : 'limits.near')}</strong>
                  )}
                </p>
                <p className="quiet">{t(`limits.about.${what}`)}</p>
                {what === 'mails' && limits.data.waitingLetters > 0 && (
                  <p>{t('limits.waiting', { count: limits.data.waitingLetters })}</p>
                )}
              </div>
            </section>
          );
        })}
      </div>
    </main>
  );
};
