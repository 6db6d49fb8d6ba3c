import { Component, type ReactNode } from 'react';
import Button from 'react-bootstrap/Button';
import { useTexts } from '../shared/i18n';

interface Props {
  /** Which screen it is: another one begins anew. */
  screen: string;
  children: ReactNode;
}

interface State {
  /** The screen that failed. */
  failed: string | null;
  mayBeOpened: boolean;
}

/** A screen could not be brought: the server is away, or has another version meanwhile. */
export class NotLoaded extends Error {}

/** Holds a screen that fails, so that the others can still be reached; what was typed is kept where it was typed. */
export class Boundary extends Component<Props, State> {
  override state: State = { failed: null, mayBeOpened: true };

  static getDerivedStateFromProps(props: Props, state: State): Partial<State> | null {
    return state.failed !== null && state.failed !== props.screen ? { failed: null } : null;
  }

  override componentDidCatch(error: unknown) {
    // A part that could not be loaded is asked for again only by a new page.
    this.setState({ failed: this.props.screen, mayBeOpened: !(error instanceof NotLoaded) });
  }

  override render() {
    return this.state.failed === null ? (
      this.props.children
    ) : (
      <Failed onAgain={this.state.mayBeOpened ? () => this.setState({ failed: null }) : null} />
    );
  }
}

const Failed = ({ onAgain }: { onAgain: (() => void) | null }) => {
  const { t } = useTexts();
  return (
    <main className="loading" role="alert">
      <h1>{t('failed.title')}</h1>
      <p>{t('failed.lead')}</p>
      {onAgain && <Button onClick={onAgain}>{t('failed.again')}</Button>}{' '}
      <Button variant="outline-primary" onClick={() => location.reload()}>
        {t('failed.reload')}
      </Button>
    </main>
  );
};
