/** Files for the browser tests. */
import type { Page } from '@playwright/test';

/** Claims as another office keeps them: semicolons, days first, decimal commas, Windows-1252, and some that do not fit. */
export function claims(count = 400): Buffer {
  const rows = Array.from({ length: count }, (_, i) => {
    const day = i === 10 ? '31.02.2026' : i === 20 ? 'last week' : `${1 + (i % 28)}.10.2026`;
    const value = i === 30 ? 'approx. 10' : i === 1 ? '1.250,50' : `${i % 40},00`;
    const thing = i === 5 ? '"Two keys\non a red ribbon"' : i % 3 === 0 ? 'Black umbrella' : 'Violin case, “Søndre”';
    return `C-${8001 + i};${day};${thing};${value}${i === 6 ? ';903J' : ''}`;
  });
  const text = `Claim no.;Lost on;What the claimant says;Value\n${rows.join('\n')}\n`;
  // Of Windows-1252 only these two quotes are elsewhere than in Latin-1.
  return Buffer.from(text.replaceAll('“', '\u0093').replaceAll('”', '\u0094'), 'latin1');
}

/** Lets a file fall on the page, as from a folder. */
export async function drop(page: Page, name: string, content: Buffer): Promise<void> {
  const base64 = content.toString('base64');
  const transfer = await page.evaluateHandle(
    ([name, base64]) => {
      const data = new DataTransfer();
      data.items.add(new File([Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0))], name));
      return data;
    },
    [name, base64],
  );
  await page.dispatchEvent('body', 'drop', { dataTransfer: transfer });
}
