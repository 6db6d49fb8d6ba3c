import ProgressBar from 'react-bootstrap/ProgressBar';

/** How much of something there is, with a name for who cannot see it: on the bar itself, where the library's own puts none. */
export const Bar = ({ name, share, className }: { name: string; share: number; className?: string }) => (
  <ProgressBar>
    <ProgressBar isChild now={Math.min(100, share * 100)} aria-label={name} className={className} />
  </ProgressBar>
);
