/** The engine's own specs once more, in Debian's headless Chromium: bundled to one file by `tools/test.mjs`. */
module.exports = (config) => {
  process.env.CHROME_BIN ??= '/usr/bin/chromium';
  config.set({
    frameworks: ['jasmine'],
    plugins: [require('karma-jasmine'), require('karma-chrome-launcher')],
    files: ['dist-spec/browser.js'],
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
    browserNoActivityTimeout: 600_000,
    captureTimeout: 300_000,
    // A property that is tried on thousands of cases answers no ping meanwhile.
    pingTimeout: 300_000,
    singleRun: true,
  });
};
