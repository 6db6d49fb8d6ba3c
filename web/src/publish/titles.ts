type Field = 'title' | 'calendar' | 'tag' | 'place' | 'category';

/** What the server makes of a title pattern: no empty brackets and no separator are left behind. */
export const filledTitle = (pattern: string, values: Record<Field, string>): string => {
  const filled = pattern
    .replace(/\{([a-zA-Z]*)\}/g, (whole, name: string) => (name in values ? values[name as Field] : whole))
    .replace(/\[\s*\]|\(\s*\)/g, '')
    .replace(/\s{2,}/g, ' ')
    .replace(/^[\s\-–·:,/|]+|[\s\-–·:,/|]+$/g, '');
  return filled || values.title;
};
