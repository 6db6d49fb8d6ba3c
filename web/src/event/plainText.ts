/** What a formatted text says, in one line. */
export const plainText = (html: string): string => {
  const page = new DOMParser().parseFromString(html, 'text/html');
  for (const end of page.querySelectorAll('p, li, br')) end.append(' ');
  for (const end of page.querySelectorAll('br')) end.replaceWith(' ');
  return (page.body.textContent ?? '').replace(/\s+/g, ' ').trim();
};
