import { existsSync, readFileSync } from 'node:fs';
import { claims, drop } from './files.js';
import { box, expect, remark, sentence, status, test, type Page } from './sheet.js';

const GUIDE = new URL('../docs/guide.md', import.meta.url);

interface Step {
  readonly title: string;
  /** The names in bold, which the step is to have used once it is over. */
  readonly names: readonly string[];
}

function stepsOf(text: string): Step[] {
  return text
    .split(/^## /m)
    .slice(1)
    .map((part) => ({
      title: part.slice(0, part.indexOf('\n')),
      names: [...part.matchAll(/\*\*([^*]+)\*\*/g)].map(([, name]) => name),
    }));
}

test('each step of the guide is done as it says, by the names that it says', async ({ page }) => {
  test.slow();
  const text = readFileSync(GUIDE, 'utf8');
  for (const [, picture] of text.matchAll(/!\[[^\]]*\]\(([^)]+)\)/g))
    expect(existsSync(new URL(picture, GUIDE)), picture).toBe(true);
  const button = (name: string | RegExp, within: Page | ReturnType<Page['locator']> = page) =>
    within.getByRole('button', { name, exact: typeof name === 'string' }).first();
  /** What is done in each step, by names of which each has to be in bold there. */
  const does: Readonly<Record<string, (named: (name: string) => string) => Promise<void>>> = {
    '1. Bring your table in': async (named) => {
      await page.goto('/');
      await expect(page.getByText(named('Bring a table in'))).toBeVisible();
      await drop(page, 'claims-guide.csv', claims());
      await expect(page.locator('footer')).toContainText('every row looked at');
      await button(named('Bring it in')).click();
      await expect(status(page)).toContainText('400 of 400 rows');
    },
    '2. Type a bit of what you know': async (named) => {
      await box(page).pressSequentially('umbr');
      await expect(status(page)).toContainText('rows match');
      await expect(page.locator('un-record-grid .mark').first()).toHaveText(/umbr/i);
      await button(named('What can be typed')).click();
      await expect(page.locator('.crib .item').first()).toBeVisible();
      await page.keyboard.press('Escape');
      await button(new RegExp(`^${named('Clear')}`)).click();
      await expect(box(page)).toHaveValue('');
    },
    '3. Say what the box does': async (named) => {
      await sentence(page)
        .getByRole('button', { name: named('every word') })
        .click();
      await page.getByRole('radio', { name: named('any word') }).click();
      await expect(sentence(page)).toContainText('any word');
      await button(named('Add a picker')).click();
      await page.getByRole('menuitem').first().click();
    },
    '4. Keep it, with words of its own': async (named) => {
      await button(named('Wording')).click();
      await page.getByLabel('Name', { exact: true }).fill('Guided');
      await button(named('Save this box')).click();
      await expect(remark(page)).toContainText('is saved on the shelf');
    },
    '5. Hand it over': async (named) => {
      await page.getByRole('link', { name: named('Share'), exact: true }).click();
      await button(named('Make a link')).click();
      await expect(button(named('Copy the link'))).toBeVisible();
      await page.goBack();
    },
    '6. Take rows out': async (named) => {
      await button(named('Take out')).click();
      const saved = page.waitForEvent('download');
      await button(named('Take it out')).click();
      await saved;
    },
    '7. Mend what you see': async (named) => {
      await page.locator('un-record-grid .row').first().locator('.cell').nth(2).click();
      await page.keyboard.type('a lantern');
      await page.keyboard.press('Enter');
      await expect(page.locator('un-record-grid .row').first()).toContainText('a lantern');
      await button(named('History')).click();
      await page
        .locator('un-history-drawer')
        .getByRole('button', { name: new RegExp(`^${named('Undo')}`) })
        .first()
        .click();
      await expect(page.locator('un-record-grid .row').first()).not.toContainText('a lantern');
    },
    '8. Let the table refresh itself': async (named) => {
      await page.goto('/');
      await button(`${named('More')} of Claims guide`).click();
      await page.getByRole('link', { name: named('Let it refresh itself …') }).click();
      await expect(button(named('Try it'))).toBeVisible();
      await expect(button(named('Keep it'))).toBeDisabled();
    },
  };
  const steps = stepsOf(text);
  expect(steps.map(({ title }) => title)).toEqual(Object.keys(does));
  for (const { title, names } of steps)
    await test.step(title, async () => {
      const used = new Set<string>();
      await does[title]((name) => {
        expect(names, `${title} names ${name}`).toContain(name);
        used.add(name);
        return name;
      });
      expect([...used].sort()).toEqual([...new Set(names)].sort());
    });
});
