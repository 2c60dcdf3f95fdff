/**
 * Compiles a pattern's tree to a program that prefers what an ECMAScript matcher prefers.
 *
 * The one difficulty is a loop whose body can match nothing, as in `(a|b*)*`: ECMAScript refuses an optional turn of a loop
 * that read nothing. So such a body is compiled in two layers: in the first nothing has been read yet, and reading leads
 * to the second; leaving from the first fails. Nothing is left for the machine to check at run time.
 *
 * Source: ECMA-262, 22.2.2.3.1 RepeatMatcher.
 */
import { foldCase, foldForPatternCharacter, type FoldSetting } from '../text/index.js';
import type { CharacterSet, CodeRange, PatternNode } from '../notation/index.js';
import { caseRelatives } from './case-relatives.js';
import { foldedSet } from './folded-set.js';
import { Look, movedEnd, Op, ProgramBuilder, type End, type Program } from './program.js';

interface Fragment {
  readonly start: number;
  readonly ends: readonly End[];
}

/** A fragment in two layers: ends reached without reading, and ends reached with. */
interface Layered {
  readonly start: number;
  readonly unread: readonly End[];
  readonly read: readonly End[];
}

const ASSERTIONS = { start: Look.Start, end: Look.End, boundary: Look.Boundary, 'no boundary': Look.NoBoundary };
/** Literals that stand side by side, as one text: in a normalised text they may be fewer. */
function composed(of: readonly PatternNode[]): readonly PatternNode[] {
  const parts: PatternNode[] = [];
  let literal = '';
  const end = (): void => {
    for (const one of literal.normalize('NFC')) parts.push({ type: 'character', codePoint: one.codePointAt(0)! });
    literal = '';
  };
  for (const part of of) {
    if (part.type === 'character') literal += String.fromCodePoint(part.codePoint);
    else {
      end();
      parts.push(part);
    }
  }
  end();
  return parts;
}

class PatternCompiler {
  private readonly builder = new ProgramBuilder();
  /** Characters and sets that were folded already; a counted repeat asks for the same one many times over. */
  private readonly folded = new Map<number, readonly number[]>();
  private readonly foldedSets = new Map<CharacterSet, { set: number; spelt: readonly string[] }>();

  constructor(private readonly setting: FoldSetting) {}

  program(tree: PatternNode): Program {
    const edges = this.setting.accents === 'respect';
    const parts = [
      ...(edges ? [() => this.characterEdge()] : []),
      () => this.plain(tree),
      ...(edges ? [() => this.characterEdge()] : []),
    ];
    const { start, ends } = this.chain(parts);
    this.builder.connect(ends, this.builder.add(Op.Match));
    return this.builder.done(start);
  }

  /** Makes a hit begin or end where a character of the shown text does, as with accents respected it has to. */
  private characterEdge(): Fragment {
    const instruction = this.builder.add(Op.Assert, Look.Character);
    return { start: instruction, ends: [this.builder.end(instruction)] };
  }

  /** Tells whether a node can match without reading: a character can that folding takes away, such as a mark where accents are ignored. */
  private canBeEmpty(node: PatternNode): boolean {
    switch (node.type) {
      case 'character':
        return this.setsOf(node.codePoint).length === 0;
      case 'set':
        return false;
      case 'assert':
        return true;
      case 'sequence':
        return node.of.every((part) => this.canBeEmpty(part));
      case 'choice':
        return node.of.some((part) => this.canBeEmpty(part));
      case 'repeat':
        return node.min === 0 || this.canBeEmpty(node.of);
    }
  }

  private nothing(): Fragment {
    // A branch whose two ways are one: an instruction that only goes on.
    const split = this.builder.add(Op.Split);
    return { start: split, ends: [this.builder.end(split, true), this.builder.end(split)] };
  }

  private read(set: number): Fragment {
    const instruction = this.builder.add(Op.Read, set);
    return { start: instruction, ends: [this.builder.end(instruction)] };
  }

  /** Sets of what a character is read as: several, if it folds to several. */
  private setsOf(codePoint: number): readonly number[] {
    let sets = this.folded.get(codePoint);
    if (!sets) {
      const text = foldForPatternCharacter(String.fromCodePoint(codePoint), this.setting);
      sets = Array.from(text, (one) => {
        const ranges: CodeRange[] = [[one.codePointAt(0)!, one.codePointAt(0)!]];
        return this.builder.set(this.setting.case === 'ignore' ? caseRelatives(ranges) : ranges);
      });
      this.folded.set(codePoint, sets);
    }
    return sets;
  }

  private character(codePoint: number): Fragment {
    return this.chain(this.setsOf(codePoint).map((set) => () => this.read(set)));
  }

  private set(set: CharacterSet): Fragment {
    let known = this.foldedSets.get(set);
    if (!known) {
      const { ranges, spelt } = foldedSet(set, this.setting);
      const folded = spelt.map((text) => (this.setting.case === 'ignore' ? [...text].map(foldCase).join('') : text));
      known = { set: this.builder.set(ranges), spelt: [...new Set(folded)] };
      this.foldedSets.set(set, known);
    }
    if (known.spelt.length === 0) return this.read(known.set);
    return this.fork([this.read(known.set), ...known.spelt.map((text) => this.spelt(text))], false);
  }

  private spelt(text: string): Fragment {
    return this.chain([...text].map((one) => () => this.character(one.codePointAt(0)!)));
  }

  private chain(parts: readonly (() => Fragment)[]): Fragment {
    return this.joined(parts.map((part) => part()));
  }

  private joined(parts: readonly Fragment[]): Fragment {
    parts.forEach(({ ends }, i) => {
      if (i + 1 < parts.length) this.builder.connect(ends, parts[i + 1].start);
    });
    return parts.length === 0 ? this.nothing() : { start: parts[0].start, ends: parts[parts.length - 1].ends };
  }

  /** Makes a fragment so many times: the first one is compiled, the others are copies of its instructions. */
  private times(count: number, make: () => Fragment): Fragment[] {
    if (count === 0) return [];
    const from = this.builder.size;
    const { start, ends } = make();
    const to = this.builder.size;
    const fragments: Fragment[] = [{ start, ends }];
    while (fragments.length < count) {
      const by = this.builder.again(from, to);
      fragments.push({ start: start + by, ends: ends.map((end) => movedEnd(end, by)) });
    }
    return fragments;
  }

  /** Ways in order of preference. @param reversed prefer the last */
  private fork(ways: readonly Fragment[], reversed: boolean): Fragment {
    const order = reversed ? [...ways].reverse() : ways;
    let start = order[order.length - 1].start;
    for (let i = order.length - 2; i >= 0; i--) start = this.builder.add(Op.Split, order[i].start, start);
    return { start, ends: order.flatMap(({ ends }) => ends) };
  }

  private plain(node: PatternNode): Fragment {
    switch (node.type) {
      case 'character':
        return this.character(node.codePoint);
      case 'set':
        return this.set(node.set);
      case 'assert': {
        const instruction = this.builder.add(Op.Assert, ASSERTIONS[node.what]);
        return { start: instruction, ends: [this.builder.end(instruction)] };
      }
      case 'sequence': {
        const of = this.setting.accents === 'respect' ? composed(node.of) : node.of;
        return this.chain(of.map((part) => () => this.plain(part)));
      }
      case 'choice':
        return this.fork(
          node.of.map((part) => this.plain(part)),
          false,
        );
      case 'repeat':
        return this.repeat(node.of, node.min, node.max, node.lazy);
    }
  }

  /** Compiles an optional turn of a loop, which has to read something. */
  private turn(body: PatternNode): Fragment {
    if (!this.canBeEmpty(body)) return this.plain(body);
    const { start, unread, read } = this.layered(body);
    if (unread.length > 0) this.builder.connect(unread, this.builder.add(Op.Fail));
    return { start, ends: read };
  }

  private repeat(body: PatternNode, min: number, max: number, lazy: boolean): Fragment {
    const required = this.times(min, () => this.plain(body));
    if (max === Infinity) return this.joined([...required, this.loop(body, lazy)]);
    if (max === min) return this.joined(required);
    return this.joined([...required, this.optional(body, max - min, lazy)]);
  }

  private branch(lazy: boolean): { split: number; into: End; past: End } {
    const split = this.builder.add(Op.Split);
    return { split, into: this.builder.end(split, !lazy), past: this.builder.end(split, lazy) };
  }

  private loop(body: PatternNode, lazy: boolean): Fragment {
    const { split, into, past } = this.branch(lazy);
    const turn = this.turn(body);
    this.builder.connect([into], turn.start);
    this.builder.connect(turn.ends, split);
    return { start: split, ends: [past] };
  }

  private optional(body: PatternNode, times: number, lazy: boolean): Fragment {
    // The first end of each turn is the way past all that are left.
    const turns = this.times(times, () => {
      const { split, into, past } = this.branch(lazy);
      const turn = this.turn(body);
      this.builder.connect([into], turn.start);
      return { start: split, ends: [past, ...turn.ends] };
    });
    const last = turns[turns.length - 1];
    turns.forEach(({ ends }, i) => {
      if (i + 1 < turns.length) this.builder.connect(ends.slice(1), turns[i + 1].start);
    });
    return { start: turns[0].start, ends: [...turns.slice(0, -1).map(({ ends }) => ends[0]), ...last.ends] };
  }

  private layered(node: PatternNode): Layered {
    switch (node.type) {
      case 'assert': {
        const { start, ends } = this.plain(node);
        return { start, unread: ends, read: [] };
      }
      case 'sequence':
        return this.layeredChain(node.of);
      case 'choice': {
        const ways = node.of.map((part) => this.layered(part));
        const { start } = this.fork(
          ways.map((way) => ({ start: way.start, ends: [] })),
          false,
        );
        return { start, unread: ways.flatMap(({ unread }) => unread), read: ways.flatMap(({ read }) => read) };
      }
      case 'repeat': {
        if (node.min > 0) {
          const rest: PatternNode = { ...node, min: 0, max: node.max - node.min };
          const parts: PatternNode[] = Array.from({ length: node.min }, () => node.of);
          return this.layeredChain(node.max === node.min ? parts : [...parts, rest]);
        }
        const { split, into, past } = this.branch(node.lazy);
        if (node.max === 0) {
          this.builder.connect([into], this.builder.add(Op.Fail));
          return { start: split, unread: [past], read: [] };
        }
        const turn = this.turn(node.of);
        this.builder.connect([into], turn.start);
        const rest = this.repeat(node.of, 0, node.max - 1, node.lazy);
        this.builder.connect(turn.ends, rest.start);
        return { start: split, unread: [past], read: rest.ends };
      }
      default: {
        const { start, ends } = this.plain(node);
        return this.canBeEmpty(node) ? { start, unread: ends, read: [] } : { start, unread: [], read: ends };
      }
    }
  }

  private layeredChain(parts: readonly PatternNode[]): Layered {
    let start = -1;
    let unread: readonly End[] = [];
    let read: readonly End[] = [];
    parts.forEach((part, i) => {
      const fresh = i === 0 || unread.length > 0 ? this.layered(part) : undefined;
      const after = read.length > 0 ? this.plain(part) : undefined;
      if (i === 0) start = fresh!.start;
      else if (fresh) this.builder.connect(unread, fresh.start);
      if (after) this.builder.connect(read, after.start);
      unread = fresh?.unread ?? [];
      read = [...(fresh?.read ?? []), ...(after?.ends ?? [])];
    });
    if (start >= 0) return { start, unread, read };
    const empty = this.nothing();
    return { start: empty.start, unread: empty.ends, read: [] };
  }
}

/** @throws TooLarge */
export function compilePattern(tree: PatternNode, setting: FoldSetting): Program {
  return new PatternCompiler(setting).program(tree);
}
