import Form from 'react-bootstrap/Form';
import type { Reach } from '../api/client';
import { useTexts } from '../i18n';
import { LIMIT_NAMES, limitName, LIMITS } from '../reach';

interface Props {
  label: string;
  limit: Reach | null | undefined;
  onLimit: (limit: Reach | null) => void;
}

/** The most that is shown to others, by its name. */
export const LimitSelect = ({ label, limit, onLimit }: Props) => {
  const { t } = useTexts();
  const name = limitName(limit);
  return (
    <Form.Select
      size="sm"
      aria-label={label}
      value={name}
      onChange={(e) => {
        const picked = LIMIT_NAMES.find((n) => n === e.target.value);
        if (picked) onLimit(LIMITS[picked]);
      }}
    >
      {LIMIT_NAMES.map((one) => (
        <option key={one} value={one}>
          {t(`reach.limit.${one}`)}
        </option>
      ))}
      {name === 'own' && <option value="own">{t('reach.limit.own')}</option>}
    </Form.Select>
  );
};
