import { useMutation, useQueryClient } from '@tanstack/react-query';
import Button from 'react-bootstrap/Button';
import { api, asProblem, type EventLink } from '../../shared/api/client';
import { problemText, useTexts } from '../../shared/i18n';
import './fields.scss';

/** What somebody without an account gets when opening the links. */
export const LinkChecks = ({ links }: { links: EventLink[] }) => {
  const { t } = useTexts();
  const queries = useQueryClient();
  const addresses = links.map((l) => l.address.trim()).filter(Boolean);
  const check = useMutation({
    mutationFn: api.checkLinks,
    onSuccess: () => queries.invalidateQueries({ queryKey: ['checks'] }),
  });
  if (addresses.length === 0) return null;
  return (
    <div className="link-checks">
      <Button variant="outline-primary" size="sm" disabled={check.isPending} onClick={() => check.mutate(addresses)}>
        {check.isPending ? t('links.trying') : t('links.try')}
      </Button>
      <div role="status">
        {check.error && <p className="field-problem">{problemText(t, asProblem(check.error))}</p>}
        {check.data && (
          <ul>
            {check.data.map((one) => (
              <li key={one.address} className={one.outcome === 'open' ? '' : 'is-closed-link'}>
                <span className="link-address">{one.address}</span>{' '}
                <strong>
                  {t(`links.outcome.${one.outcome}`)}
                  {one.status && one.outcome !== 'open' ? ` (${one.status})` : ''}
                </strong>
              </li>
            ))}
          </ul>
        )}
      </div>
    </div>
  );
};
