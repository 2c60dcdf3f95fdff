/**
 * The three made-up people of the demo, as whom it can be looked at without anybody being made. Each has a name of this machine of their
 * own (RFC 6761: whatever ends with `.localhost` leads here and nowhere else), so that two can be looked at in two windows at once.
 */
import type { MadeUpPerson, Role } from '@usual-needle/contract';
import type { IncomingMessage } from 'node:http';
import type { Principal } from './principal.js';

export const MADE_UP: readonly MadeUpPerson[] = [
  { host: 'varga.localhost', name: 'A. Varga', does: 'builds the demo’s tables and boxes' },
  { host: 'kessel.localhost', name: 'T. Kessel', does: 'keeps Found items' },
  { host: 'brandt.localhost', name: 'O. Brandt', does: 'reads what is shared' },
];

/** Finds which of them a request is made as; undefined for one by another name. */
export function madeUpOf({ headers }: IncomingMessage): MadeUpPerson | undefined {
  const host = (headers.host ?? '').replace(/:\d+$/, '').toLowerCase();
  return MADE_UP.find((one) => one.host === host);
}

/** @param tables numbers of the demo's tables */
export function asMadeUp(one: MadeUpPerson, tables: readonly number[]): Principal {
  const at = MADE_UP.indexOf(one);
  const role: Role | undefined = (['builds', 'keeps'] as const)[at];
  const theirs = at === 0 ? tables : tables.slice(0, 1);
  // Of people who are made, none has such an id.
  return {
    ...{ is: 'person', id: -1 - at, name: one.name, everything: false },
    roles: new Map(role ? theirs.map((table) => [table, role]) : []),
  };
}
