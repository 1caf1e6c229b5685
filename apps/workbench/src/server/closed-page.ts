/** What a browser sees that was not let in. It stands alone: nothing else is answered to it. */
export const CLOSED_PAGE = `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>Lumbrin is closed to this browser</title>
<style>
  :root { color-scheme: light dark; --paper: #faf7f0; --ink: #17241f; --soft: #4d5a54; --rule: #d9d3c5 }
  @media (prefers-color-scheme: dark) { :root { --paper: #131a17; --ink: #ece8dd; --soft: #aeb8b2; --rule: #36413c } }
  body { margin: 0; min-height: 100vh; display: grid; place-items: center; background: var(--paper); color: var(--ink);
    font: 16px/1.55 system-ui, sans-serif }
  main { max-width: 34rem; padding: 2rem; border-top: 3px solid #2f6b55 }
  h1 { font-size: 1.35rem; margin: 0 0 .6rem }
  p { margin: .6rem 0; color: var(--soft) }
  code { padding: .1rem .35rem; border: 1px solid var(--rule); border-radius: 4px; color: var(--ink) }
</style>
<main>
  <h1>This browser has not been let in</h1>
  <p>Lumbrin holds the private data of your customers, so it opens only for the person who started it on this computer.</p>
  <p>Open the address that its start printed in the terminal. It works once, and for one browser.</p>
  <p>For another browser, or after it was locked: <code>npm run open</code> in Lumbrin’s folder prints a new one.</p>
</main>
</html>
`
