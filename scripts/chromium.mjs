/** Debian's Chromium without the windows around its pages, which nobody sees here, as root runs it, silent on the network: for stories, screenshots and benches. */
export const CHROMIUM = {
  executablePath: '/usr/lib/chromium/chromium-headless-shell',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    // Letters stand where a screen has them, not on whole pixels.
    '--font-render-hinting=none',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
};
