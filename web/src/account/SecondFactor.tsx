import { useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { api, type Account, type FactorSetup } from '../shared/api/client';
import { CopyField } from '../shared/parts/CopyField';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { useTexts } from '../shared/i18n';
import { OwnPassword } from './OwnPassword';
import { useOwnForm } from './useOwnForm';

type Step = 'setUp' | 'newCodes' | 'off';

/** Codes of an authenticator beside the password, and the recovery codes for when it is lost. */
export const SecondFactor = ({ account }: { account: Account }) => {
  const { t } = useTexts();
  const form = useOwnForm();
  const [step, setStep] = useState<Step | null>(null);
  const [password, setPassword] = useState('');
  const [setup, setSetup] = useState<FactorSetup | null>(null);
  const [code, setCode] = useState('');
  const [codes, setCodes] = useState<string[] | null>(null);

  const close = () => {
    setStep(null);
    setSetup(null);
    setPassword('');
    setCode('');
  };
  const send = async (e: SubmitEvent) => {
    e.preventDefault();
    if (step === 'off') {
      if (await form.send(() => api.factorOff(password, code), t('account.factorOff'))) close();
    } else if (step === 'newCodes') {
      if (await form.send(async () => setCodes((await api.recoveryCodes(password, code)).codes), null)) close();
    } else if (setup) {
      if (await form.send(async () => setCodes((await api.confirmFactor(password, code)).codes), t('account.factorOn')))
        close();
    } else {
      await form.send(async () => setSetup(await api.beginFactor(password)), null);
    }
  };

  if (codes)
    return (
      <div className="notice notice-plain" role="status">
        <p>{t('account.codesOnce')}</p>
        <ul className="recovery-codes">
          {codes.map((one) => (
            <li key={one}>
              <code>{one}</code>
            </li>
          ))}
        </ul>
        <Button size="sm" onClick={() => setCodes(null)}>
          {t('account.codesKept')}
        </Button>
      </div>
    );
  if (!step)
    return (
      <div className="account-form">
        <strong>{account.hasSecondFactor ? t('account.factorIsOn') : t('account.factorIsOff')}</strong>
        {account.hasSecondFactor ? (
          <>
            <span className="quiet">{t('account.codesLeft', { count: account.recoveryCodes })}</span>
            <Button size="sm" variant="outline-primary" onClick={() => setStep('newCodes')}>
              {t('account.newCodes')}
            </Button>
            <Button size="sm" variant="outline-danger" onClick={() => setStep('off')}>
              {t('account.turnOff')}
            </Button>
          </>
        ) : (
          <Button size="sm" variant="outline-primary" onClick={() => setStep('setUp')}>
            {t('account.turnOn')}
          </Button>
        )}
      </div>
    );
  return (
    <Form noValidate className="account-form" onSubmit={(e: SubmitEvent) => void send(e)}>
      {!setup && (
        <OwnPassword
          label={t('account.current')}
          value={password}
          wrong={form.wrong('password') ?? (step === 'setUp' ? form.wrong('code') : null) ?? form.other}
          onChange={setPassword}
        />
      )}
      {/* The password alone is not enough to be rid of what stands beside it. */}
      {step !== 'setUp' && <CodeField value={code} wrong={form.wrong('code')} onChange={setCode} />}
      {setup && (
        <div className="factor-setup">
          <img
            src={`data:image/svg+xml;utf8,${encodeURIComponent(setup.picture)}`}
            alt={t('account.picture')}
            width={180}
            height={180}
          />
          <div>
            <p>{t('account.scan')}</p>
            <CopyField label={t('account.secret')} copyLabel={t('account.secretCopy')} value={setup.secret} />
            <CodeField
              autoFocus
              value={code}
              wrong={form.wrong('code') ?? form.wrong('password') ?? form.other}
              onChange={setCode}
            />
          </div>
        </div>
      )}
      <Button type="submit" size="sm" disabled={!password || ((setup !== null || step !== 'setUp') && !code)}>
        {t(setup ? 'account.confirm' : step === 'off' ? 'account.turnOff' : 'account.goOn')}
      </Button>
      <Button size="sm" variant="outline-primary" onClick={close}>
        {t('cancel')}
      </Button>
    </Form>
  );
};

interface CodeFieldProps {
  value: string;
  wrong: string | null;
  autoFocus?: boolean;
  onChange: (value: string) => void;
}

const CodeField = ({ value, wrong, autoFocus, onChange }: CodeFieldProps) => {
  const { t } = useTexts();
  return (
    <div className="code-field">
      <label>
        {t('account.code')}
        <Form.Control
          size="sm"
          autoFocus={autoFocus}
          autoComplete="one-time-code"
          value={value}
          isInvalid={wrong !== null}
          onChange={(e) => onChange(e.target.value)}
        />
      </label>
      <FieldProblem text={wrong} />
    </div>
  );
};
