/** Start flags of Debian's Chromium without a display, graphics card or network. */
const common = [
  '--no-sandbox',
  '--disable-dev-shm-usage',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--no-first-run',
  '--disable-quic',
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
