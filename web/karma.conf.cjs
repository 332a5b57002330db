// Karma on the system's Chromium, found by CHROME_BIN or by scripts/test.mjs.
module.exports = (config) => {
  config.set({
    basePath: '',
    frameworks: ['jasmine'],
    plugins: [require('karma-jasmine'), require('karma-chrome-launcher')],
    client: { jasmine: { random: true, timeoutInterval: 400_000 }, clearContext: false },
    reporters: ['progress'],
    browsers: ['Headless'],
    browserNoActivityTimeout: 420_000,
    captureTimeout: 120_000,
    // On a busy machine a browser may be silent for long without being gone; a line that breaks all the same is taken up once more.
    pingTimeout: 120_000,
    browserDisconnectTimeout: 120_000,
    browserDisconnectTolerance: 1,
    customLaunchers: {
      Headless: {
        base: 'Chromium',
        flags: [
          '--no-sandbox',
          '--headless=new',
          '--disable-gpu',
          '--disable-background-networking',
          '--disable-dev-shm-usage',
          '--remote-debugging-port=0',
        ],
      },
    },
    restartOnFileChange: false,
  });
};
