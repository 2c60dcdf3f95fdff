/**
 * The script of the page that stands in for all others while the server is away or starting (`away.html`): it says which, and opens
 * what was asked for by itself. The server sends it while it starts; `away-worker.ts` shows it where no server answers.
 */

/** The time between two looks at the server, in milliseconds. */
const AGAIN_MS = 1_000;

const WORDS = {
  starting: ['The server is starting', 'What you asked for opens by itself in a moment.'],
  away: [
    'The server is away',
    'Nothing that was kept there is lost. What you asked for opens by itself once it is back.',
  ],
} as const;

function say(state: keyof typeof WORDS): void {
  const [what, more] = WORDS[state];
  for (const [id, words] of [
    ['what', what],
    ['more', more],
  ]) {
    const element = document.getElementById(id)!;
    if (element.textContent !== words) element.textContent = words;
  }
}

async function look(): Promise<void> {
  try {
    const response = await fetch('/api/health', { cache: 'no-store' });
    const { status } = (await response.json()) as { status: string };
    if (status !== 'starting') return location.reload();
    say('starting');
  } catch {
    say('away');
  }
  setTimeout(() => void look(), AGAIN_MS);
}

void look();
