/** Copies a text; tells whether it is copied. In a frame, or without a secure way, a browser may refuse. */
export const copied = async (text: string): Promise<boolean> => {
  try {
    await navigator.clipboard.writeText(text);
    return true;
  } catch {
    return false;
  }
};
