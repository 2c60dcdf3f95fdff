/**
 * Gives a text to the clipboard, as an event of copying: the newer way is there only on secure origins, and many a team's server is
 * none.
 * @param html the same as a table, for documents
 * @returns false if the browser does not let it be copied
 */
export function giveCopy(text: string, html?: string): boolean {
  const give = (event: ClipboardEvent): void => {
    event.preventDefault();
    event.clipboardData?.setData('text/plain', text);
    if (html !== undefined) event.clipboardData?.setData('text/html', html);
  };
  document.addEventListener('copy', give, { once: true });
  const given = document.execCommand('copy');
  document.removeEventListener('copy', give);
  return given;
}
