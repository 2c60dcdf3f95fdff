/** Web units in Debian's headless Chromium. */
module.exports = (config) => {
  process.env.CHROME_BIN ??= '/usr/bin/chromium';
  config.set({
    frameworks: ['jasmine'],
    plugins: [require('karma-jasmine'), require('karma-chrome-launcher')],
    browsers: ['DebianChromium'],
    customLaunchers: {
      DebianChromium: {
        base: 'ChromeHeadless',
        flags: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
      },
    },
    // A loaded machine is slow, not wrong.
    client: { jasmine: { timeoutInterval: 120_000 } },
    reporters: ['dots'],
    restartOnFileChange: false,
    browserNoActivityTimeout: 300_000,
    captureTimeout: 300_000,
    singleRun: true,
  });
};
