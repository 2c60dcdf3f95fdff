/** The checks that `tools/build-validators.mjs` makes of the contract's schema of a box: one a part, and one an item of each list. */
export declare const CHECKS: Readonly<Record<string, (value: unknown) => boolean>>;
