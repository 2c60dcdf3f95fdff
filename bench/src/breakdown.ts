/** Where the time of a page's main thread goes, by the browser's own trace (Chrome DevTools Protocol, domain Tracing). */
import type { Page } from '@playwright/test';

/** Kinds of work, and the events of the trace that are it. */
const KINDS: Record<string, readonly string[]> = {
  script: ['FunctionCall', 'EvaluateScript', 'EventDispatch', 'FireAnimationFrame', 'TimerFire', 'RunMicrotasks'],
  'garbage collection': ['MinorGC', 'MajorGC', 'V8.GCScavenger', 'V8.GCIncrementalMarking'],
  style: ['UpdateLayoutTree', 'RecalculateStyles'],
  layout: ['Layout'],
  'before paint': ['PrePaint', 'UpdateLayer', 'UpdateLayerTree'],
  paint: ['Paint'],
  'layers and commit': ['Layerize', 'Commit', 'CompositeLayers'],
};

interface TraceEvent {
  readonly name: string;
  readonly ph: string;
  readonly ts: number;
  readonly dur?: number;
  readonly tid: number;
  readonly pid: number;
}

/** Time of each kind, without that of other kinds within it, in microseconds. */
function sums(events: readonly TraceEvent[]): Map<string, number> {
  const kindOf = new Map(Object.entries(KINDS).flatMap(([kind, names]) => names.map((name) => [name, kind])));
  const found = new Map(Object.keys(KINDS).map((kind) => [kind, 0]));
  const whole = events
    .filter(({ ph, dur, name }) => ph === 'X' && dur !== undefined && kindOf.has(name))
    .sort((a, b) => a.ts - b.ts || b.dur! - a.dur!);
  const open: TraceEvent[] = [];
  for (const event of whole) {
    while (open.length > 0 && open[open.length - 1].ts + open[open.length - 1].dur! <= event.ts) open.pop();
    const kind = kindOf.get(event.name)!;
    const around = open.at(-1);
    if (around) found.set(kindOf.get(around.name)!, found.get(kindOf.get(around.name)!)! - event.dur!);
    found.set(kind, found.get(kind)! + event.dur!);
    open.push(event);
  }
  return found;
}

/** @returns milliseconds of each kind, over all of `work` */
export async function traced(page: Page, work: () => Promise<void>): Promise<Map<string, number>> {
  const session = await page.context().newCDPSession(page);
  const events: TraceEvent[] = [];
  session.on('Tracing.dataCollected', ({ value }) => events.push(...(value as unknown as TraceEvent[])));
  await session.send('Tracing.start', {
    traceConfig: { includedCategories: ['devtools.timeline', 'disabled-by-default-devtools.timeline', 'v8'] },
    transferMode: 'ReportEvents',
  });
  await work();
  const complete = new Promise<void>((done) => session.once('Tracing.tracingComplete', () => done()));
  await session.send('Tracing.end');
  await complete;
  await session.detach();
  // The thread that runs the page's script is the one with most of it.
  const script = new Map<string, number>();
  for (const { name, pid, tid, dur = 0 } of events)
    if (name === 'FunctionCall') script.set(`${pid} ${tid}`, (script.get(`${pid} ${tid}`) ?? 0) + dur);
  const [main] = [...script].sort(([, a], [, b]) => b - a)[0] ?? [''];
  const own = events.filter(({ pid, tid }) => `${pid} ${tid}` === main);
  return new Map([...sums(own)].map(([kind, time]) => [kind, time / 1_000]));
}
