import Form from 'react-bootstrap/Form';
import { FieldProblem } from '../shared/parts/FieldProblem';

interface FieldProps {
  label: string;
  value: string;
  wrong: string | null;
  isNew?: boolean;
  onChange: (value: string) => void;
}

export const OwnPassword = ({ label, value, wrong, isNew, onChange }: FieldProps) => (
  <label>
    {label}
    <Form.Control
      size="sm"
      type="password"
      autoComplete={isNew ? 'new-password' : 'current-password'}
      value={value}
      isInvalid={wrong !== null}
      onChange={(e) => onChange(e.target.value)}
    />
    <FieldProblem text={wrong} />
  </label>
);
