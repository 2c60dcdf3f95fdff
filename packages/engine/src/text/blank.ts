import { isSpace } from './characters.js';

/** True if the text is empty or only spaces of any kind: such a cell has no text, such a strand asks nothing. */
export function isBlank(text: string): boolean {
  for (let i = 0; i < text.length; i++) if (!isSpace(text.charCodeAt(i))) return false;
  return true;
}
