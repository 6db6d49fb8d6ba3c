import { Link } from 'react-router';
import type { Calendar } from '../shared/api/client';
import { useTexts } from '../shared/i18n';
import { Sheet } from '../shared/parts/Sheet';
import { Asks, Decide, ProposalBody } from './ProposalBody';
import { useProposals } from '../shared/data/useProposals';
import './proposals.scss';

interface Props {
  id: string;
  calendars: Calendar[];
  onClose: () => void;
}

/** What is proposed, beside its place on the board. */
export const ProposalSheet = ({ id, calendars, onClose }: Props) => {
  const { t } = useTexts();
  const proposals = useProposals();
  const proposal = proposals.data?.find((p) => p.id === id);
  const calendar = calendars.find((c) => c.id === proposal?.asks[0]?.calendarId);
  return (
    <Sheet
      label={proposal?.offered.title ?? t('proposal.title')}
      head={calendar?.title}
      mark={calendar?.mark ?? null}
      onClose={onClose}
    >
      {!proposal && proposals.isSuccess && <p>{t('proposal.gone')}</p>}
      {proposal && (
        <div className="proposal-sheet">
          <p className="quiet">
            {proposal.isMine
              ? t('proposal.youPropose')
              : t('proposal.proposes', { person: proposal.person ?? t('history.nobody') })}
          </p>
          <h2 className="sheet-title">{proposal.offered.title}</h2>
          <ProposalBody proposal={proposal} calendars={calendars} />
          <Asks proposal={proposal} calendars={calendars} />
          <Decide proposal={proposal} calendars={calendars} onDecided={onClose} />
          <p>
            <Link to={`/proposals?at=${proposal.id}`}>{t('proposal.all')}</Link>
          </p>
        </div>
      )}
    </Sheet>
  );
};
