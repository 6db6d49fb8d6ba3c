import { Component, type ReactNode } from 'react';
import Button from 'react-bootstrap/Button';
import { useTexts } from '../shared/i18n';

interface Props {
  /** Which screen it is: another one begins anew. */
  screen: string;
  children: ReactNode;
}

/** Holds a screen that fails, so that the others can still be reached; what was typed is kept where it was typed. */
export class Boundary extends Component<Props, { failed: string | null }> {
  override state = { failed: null };

  static getDerivedStateFromProps(props: Props, state: { failed: string | null }) {
    return state.failed !== null && state.failed !== props.screen ? { failed: null } : null;
  }

  override componentDidCatch() {
    this.setState({ failed: this.props.screen });
  }

  override render() {
    return this.state.failed === null ? (
      this.props.children
    ) : (
      <Failed onAgain={() => this.setState({ failed: null })} />
    );
  }
}

const Failed = ({ onAgain }: { onAgain: () => void }) => {
  const { t } = useTexts();
  return (
    <main className="loading" role="alert">
      <h1>{t('failed.title')}</h1>
      <p>{t('failed.lead')}</p>
      <Button onClick={onAgain}>{t('failed.again')}</Button>{' '}
      <Button variant="outline-primary" onClick={() => location.reload()}>
        {t('failed.reload')}
      </Button>
    </main>
  );
};
