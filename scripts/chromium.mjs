/** Start flags of Debian's Chromium without a display, graphics card or network. */
const common = [
  '--no-sandbox',
  '--disable-dev-shm-usage',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--no-first-run',
  '--disable-quic',
  // Room for what a page makes and drops at once: it is cleared away less often.
  '--js-flags=--min-semi-space-size=64 --max-semi-space-size=128',
];
/** Pages without 3D: drawn by the processor at once. */
export const flags = [...common, '--disable-gpu'];
/** WebGL 2 rendered in software, and the page by the processor as well: a picture that takes long holds up no other. */
export const flags3d = [
  ...common,
  '--disable-gpu-compositing',
  '--use-angle=swiftshader',
  '--enable-unsafe-swiftshader',
  '--ignore-gpu-blocklist',
];
