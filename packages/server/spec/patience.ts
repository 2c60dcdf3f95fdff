import { takeHeard } from './heard.js';

/** A loaded machine is slow, not wrong: a spec may take this long, in milliseconds. */
jasmine.DEFAULT_TIMEOUT_INTERVAL = 180_000;

jasmine.getEnv().addReporter({
  specDone: ({ fullName, status }) => {
    const heard = takeHeard();
    if (status === 'failed' && heard.length > 0) console.error(`\nlogged during “${fullName}”:\n${heard.join('\n')}`);
  },
});
