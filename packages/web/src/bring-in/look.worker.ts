/** Looks through a file beside the page, and tries a box on its first rows. */
import { WHOLE_SCOPE, type SearchAnswer } from '@usual-needle/contract';
import { FileProblem, LookThrough, type Bytes, type Showing } from '@usual-needle/formats';
import { answerIn, Host } from '@usual-needle/host';
import type { LookAsked, LookSaid, Tried } from './messages';

/** The time between two reports while a file is looked through, in milliseconds. */
const EVERY_MS = 250;
const TRIED = 1;

let through: LookThrough | undefined;
let showing: Showing = 'first';
/** Rises with each file or way of reading it: what an older one says is not wanted any more. */
let turn = 0;

const say = (said: LookSaid): void => postMessage(said);

async function* bytesOf(file: Blob): Bytes & AsyncGenerator<Uint8Array> {
  const reader = file.stream().getReader();
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      yield value;
    }
  } finally {
    await reader.cancel().catch(() => undefined);
  }
}

function report(): void {
  if (through) say({ is: 'look', look: through.look(), rows: through.rowsOf(showing), showing, turn: asked });
}

const turnOfTheLoop = (): Promise<void> => new Promise((done) => setTimeout(done, 0));

async function look({ file, name, choices, turn: newest }: Extract<LookAsked, { do: 'look' }>): Promise<void> {
  asked = newest;
  if (through && !through.asksToReadAnew(choices) && lookedAt === file) {
    through.choose(choices);
    report();
    return;
  }
  const mine = ++turn;
  const reading = new LookThrough(choices, { name });
  through = undefined;
  lookedAt = file;
  showing = 'first';
  let told = 0;
  let looked = performance.now();
  try {
    const steps = reading.read(bytesOf(file));
    while (!(await steps.next()).done) {
      const now = performance.now();
      // What is chosen meanwhile is heard in between.
      if (now - looked > 30) {
        await turnOfTheLoop();
        looked = performance.now();
      }
      if (mine !== turn) return;
      through = reading;
      if (now - told < EVERY_MS && told > 0) continue;
      told = now;
      report();
    }
    report();
  } catch (error) {
    if (mine !== turn) return;
    if (!(error instanceof FileProblem)) throw error;
    say({ is: 'failed', message: error.message });
  }
}

let lookedAt: Blob | undefined;
/** The page's number of what it asked last: it tells a preview of older choices from one of these. */
let asked = 0;

/** The box that a new table would have, on the first rows. */
async function tryBox(text: string): Promise<void> {
  if (!through) return;
  const columns = through
    .look()
    .columns.map(({ column, name, taken }) => ({ ...column, name: taken ? column.name : name }));
  // Names that are there twice cannot be told apart here; bringing in says so.
  const named = columns.map((column, i) => ({
    ...column,
    name: columns.findIndex(({ name }) => name === column.name) === i ? column.name : `${column.name} ${i}`,
  }));
  const host = new Host();
  host.begin(TRIED, named);
  await host.append(
    TRIED,
    through.firstRows.map(({ line, cells }) => ({ id: line, version: 1, cells })),
  );
  await host.finish(TRIED, 1);
  const names = named.map(({ name }) => name);
  const question = { threaded: names, strands: [{ verb: 'find' as const, text }] };
  const outcome = await host.search(WHOLE_SCOPE, TRIED, { question, columns: names, limit: 200 });
  const answer = JSON.parse(answerIn(outcome)) as SearchAnswer;
  const tried: Tried = {
    text,
    found: answer.rows.map(({ id, marks }) => ({ line: id, marks })),
    problem: answer.problem?.message ?? '',
  };
  say({ is: 'tried', tried });
}

addEventListener('message', ({ data }: MessageEvent<LookAsked>) => {
  if (data.do === 'look') void look(data);
  else if (data.do === 'try') void tryBox(data.text);
  else {
    showing = data.showing;
    report();
  }
});
