import { useSearchParams } from 'react-router';

/** As whom the board is looked at: an audience or a person; null for with one's own eyes. */
export const useViewAs = (): string | null => useSearchParams()[0].get('look');

/** What is seen with other eyes is kept apart: nothing is typed or moved by it. */
export const boardKey = (look: string | null): string[] => (look ? ['board-as', look] : ['board']);
