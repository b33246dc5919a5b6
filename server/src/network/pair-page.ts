/** The page on which a device gives the code that this computer shows. */
const written = (text: string): string => text.replace(/[&<>"']/g, (letter) => `&#${letter.charCodeAt(0)};`);

/** `why`: what was wrong with the try before, a sentence; empty before the first. */
export const pairPage = (why: string, name = ''): string => `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Cork Elbow: pair this device</title>
<style>
  :root { color-scheme: light dark; --desk: #e6d9c3; --paper: #fbf7ee; --ink: #1f2a2a; --lines: #d8cbb3; --board: #1f5c55; --alarm: #a3281c; }
  @media (prefers-color-scheme: dark) { :root { --desk: #161d1d; --paper: #222b2a; --ink: #f2e9da; --lines: #45504d; --board: #7fc4b8; --alarm: #ff8b73; } }
  body { margin: 0; min-height: 100vh; display: grid; place-items: center; background: var(--desk); color: var(--ink); font: 1.05rem/1.45 system-ui, sans-serif; }
  main { background: var(--paper); border-radius: 6px; padding: 1.6rem; max-width: 24rem; margin: 1rem; box-sizing: border-box; }
  h1 { font-size: 1.35rem; margin: 0 0 0.5rem; }
  p { margin: 0 0 0.9rem; }
  label { display: block; margin-bottom: 0.9rem; }
  input { display: block; width: 100%; box-sizing: border-box; font: inherit; padding: 0.5rem 0.6rem; margin-top: 0.2rem; border: 1px solid var(--lines); border-radius: 4px; background: transparent; color: inherit; }
  input[name=code] { font-family: ui-monospace, monospace; font-size: 1.5rem; letter-spacing: 0.15em; }
  button { font: inherit; font-weight: 700; padding: 0.6rem 1.1rem; border: 0; border-radius: 4px; background: var(--board); color: var(--paper); }
  .why { color: var(--alarm); font-weight: 600; }
  .small { font-size: 0.9rem; margin: 1rem 0 0; }
</style>
<main>
  <h1>Pair this device</h1>
  <p>The computer that Cork Elbow runs on shows a code of eight digits on its shelf, under “Other devices”.</p>
  ${why ? `<p class="why" role="alert">${written(why)}</p>` : ''}
  <form method="post" action="/pair">
    <label>Code <input name="code" inputmode="numeric" autocomplete="off" required autofocus maxlength="12"></label>
    <label>What this device is called <input name="name" autocomplete="off" maxlength="60" placeholder="bench tablet" value="${written(name)}"></label>
    <button>Pair</button>
  </form>
  <p class="small">It may watch and stop from then on; whether it may move the arm is decided on that computer. Compare the fingerprint of the certificate, which your browser shows, with the one there.</p>
</main>
</html>
`;
