/** The ways in which a source does not give what it should. */

/** A source did not answer, or not with what was asked for: it is asked again. Said without a secret. */
export class SourceFailed extends Error {}

/** Nothing is new there. */
export class NothingNew extends Error {}

/** A source gave no table that can be taken as it is: its builder has to look. */
export class SourceWaits extends Error {}
