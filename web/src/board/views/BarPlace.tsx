import type { CSSProperties } from 'react';
import type { Calendar } from '../../shared/api/client';
import { Entry } from './Entry';
import type { Bar } from './layout';
import { isChosen, type Chosen } from '../selection';
import './entries.scss';

interface Props {
  bar: Bar;
  calendar: Calendar | undefined;
  chosen: Chosen | null;
  onChoose: (chosen: Chosen) => void;
  /** Whether the rows are places. */
  isByPlace?: boolean;
}

/** An event over several days, laid across its columns; the board says in `--head-columns` how many come before them. */
export const BarPlace = ({ bar, calendar, chosen, onChoose, isByPlace = false }: Props) =>
  calendar && (
    <div
      className={`bar-place${bar.before ? ' from-before' : ''}${bar.after ? ' goes-on' : ''}`}
      style={
        {
          gridColumn: `calc(${bar.first + 1} + var(--head-columns)) / calc(${bar.last + 2} + var(--head-columns))`,
          '--line': bar.line,
        } as CSSProperties
      }
    >
      <Entry
        occurrence={bar.occurrence}
        calendar={calendar}
        isChosen={isChosen(chosen, bar.occurrence)}
        onChoose={onChoose}
        isByPlace={isByPlace}
        bar
      />
    </div>
  );
