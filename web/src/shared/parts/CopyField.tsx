import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { useTexts } from '../i18n';

interface Props {
  label: string;
  value: string;
  copyLabel: string;
  rows?: number;
}

/** A text to take along, with a button that copies it. */
export const CopyField = ({ label, value, copyLabel, rows }: Props) => {
  const { t } = useTexts();
  const [copied, setCopied] = useState(false);
  const copy = async () => {
    await navigator.clipboard.writeText(value);
    setCopied(true);
    setTimeout(() => setCopied(false), 2500);
  };
  return (
    <div className={rows ? 'copy-field tall' : 'copy-field'}>
      <Form.Control
        {...(rows ? { as: 'textarea', rows } : {})}
        readOnly
        value={value}
        aria-label={label}
        onFocus={(e) => e.currentTarget.select()}
      />
      <Button variant="outline-primary" onClick={() => void copy()}>
        {copied ? t('copied') : copyLabel}
      </Button>
      <span role="status" className="visually-hidden">
        {copied ? t('copied') : ''}
      </span>
    </div>
  );
};
