import { useEffect, useRef, useState, type ReactNode, type RefObject } from 'react';
import { markClass, Spine } from '../../shared/parts/Spine';
import type { Calendar } from '../../shared/api/client';
import { usePrinting } from '../usePrinting';

interface Props {
  board: RefObject<HTMLElement | null>;
  calendar: Calendar;
  className: string;
  /** It is drawn wherever it is. */
  isKept: boolean;
  /** It is drawn before it is known what is on the screen. */
  isFirst: boolean;
  /** About how high it is before it was ever drawn, in dots. */
  about: number;
  children: () => ReactNode;
}

/** A row that is drawn while it is on the screen or not far from it; further away it keeps its name and its height. */
export const NearLane = ({ board, calendar, className, isKept, isFirst, about, children }: Props) => {
  const row = useRef<HTMLDivElement>(null);
  const [isNear, setNear] = useState(isFirst);
  const [height, setHeight] = useState(about);
  const isPrinting = usePrinting();
  useEffect(() => {
    const element = row.current;
    if (!element || isKept) return;
    const observer = new IntersectionObserver(
      (told) => {
        const isSeen = told.at(-1)?.isIntersecting ?? true;
        // Nobody's focus is taken away by scrolling.
        const stays = isSeen || element.contains(document.activeElement);
        if (!stays) setHeight(element.offsetHeight);
        setNear(stays);
      },
      { root: board.current, rootMargin: '600px 0px' },
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, [board, isKept]);

  const isDrawn = isKept || isNear || isPrinting;
  return (
    <div
      ref={row}
      role="group"
      aria-label={calendar.title}
      className={className}
      style={isDrawn ? undefined : { height }}
    >
      {isDrawn ? (
        children()
      ) : (
        <div className={`lane-head ${markClass(calendar.mark)}`}>
          <Spine />
          <span className="lane-name">{calendar.title}</span>
        </div>
      )}
    </div>
  );
};
