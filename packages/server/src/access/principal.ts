/** The person that asks. Until people can sign in there is one: whoever sits at this machine, who is a builder of every table. */
import type { IncomingMessage } from 'node:http';

export interface Principal {
  readonly kind: 'this machine';
}

const THIS_MACHINE: Principal = { kind: 'this machine' };

/** The principal that a request comes from. */
export function principalOf(_request: IncomingMessage): Principal {
  return THIS_MACHINE;
}
