/** A loaded machine is slow, not wrong: a spec may take this long, in milliseconds. */
jasmine.DEFAULT_TIMEOUT_INTERVAL = 120_000;
