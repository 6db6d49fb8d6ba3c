import { useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import { ApiProblem, asProblem, type Calendar, type Proposal } from '../shared/api/client';
import { useTexts } from '../shared/i18n';
import { Told } from '../shared/parts/Told';
import { inputOf, useActions } from '../shared/data/actions';
import { DraftClashes } from '../event/DraftClashes';
import { DraftDates } from '../event/fields/DraftDates';
import { draftOf, inputOfDraft } from '../event/draft/draft';
import { EventFields } from '../event/fields/EventFields';
import { Sheet } from '../shared/parts/Sheet';
import { ToKeepers } from '../event/ToKeepers';

interface Props {
  proposal: Proposal;
  calendars: Calendar[];
  onClose: () => void;
}

/** A proposal that its proposer makes better. */
export const ReviseSheet = ({ proposal, calendars, onClose }: Props) => {
  const { t } = useTexts();
  const actions = useActions();
  const [draft, setDraft] = useState(() => draftOf(inputOf(proposal.offered)));
  const [remark, setRemark] = useState(proposal.remark);
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const calendar = calendars.find((c) => c.id === draft.calendarId);
  const submit = async (e: SubmitEvent) => {
    e.preventDefault();
    try {
      await actions.revise(proposal, inputOfDraft(draft, null), remark);
      onClose();
    } catch (error) {
      setProblem(asProblem(error));
    }
  };
  return (
    <Sheet label={proposal.offered.title} head={calendar?.title} mark={calendar?.mark ?? null} onClose={onClose}>
      <form onSubmit={(e) => void submit(e)} noValidate>
        <EventFields
          draft={draft}
          onDraft={setDraft}
          problem={problem}
          calendars={calendars}
          dates={<DraftDates draft={draft} event={null} around={null} />}
          clashes={<DraftClashes input={inputOfDraft(draft, null)} id={null} calendars={calendars} />}
          autoFocus
        />
        <ToKeepers asked={[]} calendars={calendars} remark={remark} onRemark={setRemark} />
        {problem && !problem.field && <Told problem={problem} />}
        <div className="sheet-foot">
          <Button type="submit">{t('proposal.sendAgain')}</Button>
          <Button variant="outline-primary" onClick={onClose}>
            {t('cancel')}
          </Button>
        </div>
      </form>
    </Sheet>
  );
};
