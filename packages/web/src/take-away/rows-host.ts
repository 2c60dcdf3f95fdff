/** The rows of a take-away page, and the host that answers questions to them: in a worker, or where there is none in the page itself. */
import {
  WHOLE_SCOPE,
  type ExplainRequest,
  type Explanation,
  type NextMatch,
  type NextRequest,
  type Offers,
  type OffersRequest,
  type SearchAnswer,
  type SearchRequest,
  type TakenAway,
} from '@usual-needle/contract';
import { answerIn, Host, PackReader } from '@usual-needle/host';

/** Number of the only table that there is. */
const TABLE = 1;
/** Letters of base64 that are read at once; a multiple of four. */
const AT_ONCE = 1 << 20;

/** The bytes of base64 (RFC 4648), part by part. */
function* bytesOf(text: string): Generator<Uint8Array<ArrayBuffer>> {
  for (let at = 0; at < text.length; at += AT_ONCE)
    yield Uint8Array.from(atob(text.slice(at, at + AT_ONCE)), (letter) => letter.charCodeAt(0));
}

async function unzipped(text: string): Promise<ArrayBuffer> {
  const parts = bytesOf(text);
  const zipped = new ReadableStream<Uint8Array<ArrayBuffer>>({
    pull: (controller) => {
      const { value, done } = parts.next();
      if (done) controller.close();
      else controller.enqueue(value);
    },
  });
  return new Response(zipped.pipeThrough(new DecompressionStream('gzip'))).arrayBuffer();
}

export class RowsHost {
  private readonly host = new Host();

  /** Takes the rows in; nothing is answered before. @param rows as base64 of what is compressed */
  async open({ columns, parts, change }: Pick<TakenAway, 'columns' | 'parts' | 'change'>, rows: string): Promise<void> {
    const bytes = await unzipped(rows);
    let at = 0;
    const readers = parts.map(([numbers, texts]) => {
      const begin = at;
      at += numbers + texts;
      return new PackReader(bytes.slice(begin, begin + numbers), new Uint8Array(bytes, begin + numbers, texts));
    });
    this.host.hold(TABLE, columns, readers, change);
  }

  async search(request: SearchRequest): Promise<SearchAnswer> {
    const outcome = await this.host.search(WHOLE_SCOPE, TABLE, request);
    // A later question has come; of this one nothing is wanted any more.
    if (outcome.is === 'overtaken') return { overtaken: true } as SearchAnswer;
    return JSON.parse(answerIn(outcome)) as SearchAnswer;
  }

  async explain(request: ExplainRequest): Promise<Explanation> {
    const outcome = await this.host.explain(WHOLE_SCOPE, TABLE, request);
    return outcome.is === 'overtaken' ? { reasons: [], overtaken: true } : answerIn(outcome);
  }

  async offers(request: OffersRequest): Promise<Offers> {
    return answerIn(await this.host.offers(WHOLE_SCOPE, TABLE, request));
  }

  async next(request: NextRequest): Promise<NextMatch> {
    return answerIn(await this.host.next(WHOLE_SCOPE, TABLE, request));
  }
}
