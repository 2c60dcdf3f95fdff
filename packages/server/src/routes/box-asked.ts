/** The box that an address asks for: the one that is kept, with another text, and with what its query says differs from it. */
import { boxSchema, withFirstText, type Box } from '@usual-needle/contract';
import { HttpProblem } from './http-problem.js';
import { bodyOf } from './validate.js';

/** Parts of a box, any of them. */
const partsOf = bodyOf<Partial<Box>>({
  type: 'object',
  additionalProperties: false,
  properties: Object.fromEntries(
    Object.entries(boxSchema.properties).filter(([key]) => !['format', 'version', 'table', 'name'].includes(key)),
  ),
});

const unreadable = (): HttpProblem =>
  new HttpProblem(400, 'The address cannot be read', '“as” is to be the JSON that the page’s own address has.');

/**
 * @param as the parts that differ, as JSON; one that is null is not set
 * @throws HttpProblem 400 where it cannot be read
 */
export function boxAsked(saved: Box, text: string | undefined, as: string | undefined): Box {
  let parts: unknown = {};
  try {
    if (as !== undefined) parts = JSON.parse(as);
  } catch {
    throw unreadable();
  }
  if (parts === null || typeof parts !== 'object' || Array.isArray(parts)) throw unreadable();
  const all = Object.entries(parts);
  const set = partsOf(Object.fromEntries(all.filter(([, value]) => value !== null)));
  const unset = Object.fromEntries(all.filter(([, value]) => value === null).map(([key]) => [key, undefined]));
  const box: Box = { ...saved, ...set, ...unset };
  return text === undefined ? box : withFirstText(box, text);
}
