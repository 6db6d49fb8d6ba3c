import { useEffect, useRef, useState } from 'react';

interface Options {
  /** What stands in the field when it opens. */
  begun: string;
  add: (line: string) => Promise<unknown>;
  /** Hears what stands in the field and is not sent. */
  onText: (text: string) => void;
  /** The line in the field was refused. */
  onRefused: (error: unknown) => void;
  /** A line was refused when the next one was typed already: nobody is kept from typing that to its end. */
  onLost: (line: string, error: unknown) => void;
  /** Lines that were refused so, with the one that was typed, for all of them to be looked through. */
  onBack: (lines: string[]) => void;
  /** All that was sent is there; and what stands in the field. */
  onAdded: (left: string) => void;
}

/**
 * Lines typed into one field. A line that is finished stays in it until it is there; what is typed on meanwhile is the next
 * line, and they are added one after the other, however quick the hand.
 */
export const useTypedLines = ({ begun, add, onText, onRefused, onLost, onBack, onAdded }: Options) => {
  const [state, setState] = useState<{ text: string; sent: object | null }>({ text: begun, sent: null });
  const now = useRef(state);
  const last = useRef<Promise<void>>(Promise.resolve());
  const going = useRef(0);
  const lost = useRef<string[]>([]);
  const isOpen = useRef(true);
  useEffect(() => {
    isOpen.current = true;
    return () => {
      isOpen.current = false;
    };
  }, []);
  const show = (text: string, sent: object | null = null) => {
    now.current = { text, sent };
    setState(now.current);
  };
  const type = (value: string) => {
    const { text, sent } = now.current;
    // What is on its way is changed where it is then.
    if (sent && !value.startsWith(text)) return;
    show(sent ? value.slice(text.length).trimStart() : value);
    onText(now.current.text);
  };
  const send = async (line: string, sent: object) => {
    let refusal: { error: unknown } | null = null;
    try {
      await add(line);
    } catch (error) {
      refusal = { error };
    }
    going.current--;
    if (!isOpen.current) return;
    const isShown = now.current.sent === sent;
    if (isShown) show(refusal ? line : '');
    if (refusal && isShown) onRefused(refusal.error);
    else if (refusal) {
      lost.current.push(line);
      onLost(line, refusal.error);
    } else if (isShown) onText('');
    if (going.current > 0 || (refusal && isShown)) return;
    if (lost.current.length > 0 && !now.current.text) giveBack();
    else if (!refusal) onAdded(now.current.text);
  };
  const giveBack = () => {
    const { text, sent } = now.current;
    onBack([...lost.current, ...(text.trim() && !sent ? [text] : [])]);
    lost.current = [];
  };
  /** The line is finished. */
  const finish = () => {
    const { text, sent } = now.current;
    if (sent || !text.trim()) return;
    if (lost.current.length > 0) {
      giveBack();
      return;
    }
    const mine = {};
    show(text, mine);
    going.current++;
    last.current = last.current.then(() => send(text, mine));
  };
  /** Leaves the field; whether what was refused went to be looked through. */
  const leave = (): boolean => {
    if (lost.current.length === 0) return false;
    giveBack();
    return true;
  };
  return { text: state.text, isSent: state.sent !== null, isGoing: () => going.current > 0, type, finish, leave };
};
