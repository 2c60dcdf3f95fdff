/** Whether an error says that the database could not be reached, or broke off: that is nobody's fault here, and passes. */

/** Codes of the system, and of PostgreSQL (its manual, appendix A): no connection, too many of them, being shut down. */
const AWAY = /^(?:ECONN|EPIPE$|ENOENT$|ETIMEDOUT$|08|53300$|57P0)/;
/** Messages of the driver that come without a code. */
const SAID =
  /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error|not queryable/i;

export function isDatabaseAway(error: unknown): boolean {
  for (let at = error, depth = 0; at instanceof Error && depth < 4; at = at.cause, depth++) {
    const code = 'code' in at && typeof at.code === 'string' ? at.code : '';
    const isOfSocket = 'syscall' in at && typeof at.syscall === 'string' && /^(?:connect|read|write)$/.test(at.syscall);
    const isOfDatabase = isOfSocket || 'severity' in at || 'query' in at;
    if (SAID.test(at.message) || (isOfDatabase && AWAY.test(code))) return true;
  }
  return false;
}
