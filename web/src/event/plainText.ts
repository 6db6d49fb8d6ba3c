/** What a formatted text says, in one line. */
export const plainText = (html: string): string => {
  const page = new DOMParser().parseFromString(html, 'text/html');
  for (const end of page.querySelectorAll('p, li')) end.append(' ');
  for (const end of page.querySelectorAll('br')) end.replaceWith(' ');
  return page.body.innerText.replace(/\s+/g, ' ').trim();
};
