// Stands between this device and the app. When the app does not answer, the pages that were kept open all the same:
// the deck, the order of work, the benches, the plans, the guide and first aid. Writes are none of its business: they
// wait in the page's own queue, see queue.js.
const PAGES = "lepidos-pages";
const FILES = "lepidos-files";
const LIST = "/live/kept";
const DRAWINGS = "/live/drawings";
const JOIN = "/join";
const PATIENCE_MS = 4000; // after that a kept page is better than none
const FRESH_MS = 5 * 60_000;
const PAUSE_MS = 120; // between two pages: the bench goes first
const MAX_VISITED = 200;
const KEPT_AT = "x-kept-at";
const ONCE_ONLY = ["done", "printer"]; // what such a page says is said once

const NOBODY = `<!doctype html><html lang="en"><meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1"><title>No answer · Lepidos</title>
<h1>The app does not answer</h1><p>SAID</p>
<p><a href="/">To what is kept on this device</a></p></html>`;
const NOT_KEPT = "This page was not kept on this device. Nothing is lost: it comes when the app answers again.";
const NOT_SENT = "Nothing was sent. Go back: what you filled in is still there. Try again when the app answers.";

const wait = (ms) => new Promise((done) => { setTimeout(done, ms); });

function nobody(said) {
  const headers = { "content-type": "text/html; charset=utf-8", "cache-control": "no-store" };
  return new Response(NOBODY.replace("SAID", said), { status: 503, headers });
}

// A copy of an answer with the time at which it was kept.
async function stamped(answer) {
  const headers = new Headers(answer.headers);
  for (const name of ["content-encoding", "content-length", "set-cookie"]) headers.delete(name);
  headers.set(KEPT_AT, String(Date.now()));
  return new Response(await answer.text(), { headers });
}

const isPage = (answer) => answer.ok && (answer.headers.get("content-type") || "").startsWith("text/html");

async function keepPage(path, answer) {
  const pages = await caches.open(PAGES);
  await pages.put(path, await stamped(answer));
}

// The page that was kept for an address, or the same page as it opens without what was asked of it.
async function keptPage(url) {
  const pages = await caches.open(PAGES);
  if (url.pathname === "/") {
    const list = await (await pages.match(LIST))?.json();
    return list ? Response.redirect(list.start) : null;
  }
  const found = (await pages.match(url.pathname + url.search)) || (await pages.match(url.pathname));
  if (!found) return null;
  const text = (await found.text()).replace("<body ", `<body data-kept-at="${found.headers.get(KEPT_AT)}" `);
  return new Response(text, { headers: found.headers });
}

async function page(event, request, url) {
  const asked = fetch(request).catch(() => null);
  if (request.method !== "GET") return (await asked) || nobody(NOT_SENT);
  const answer = await Promise.race([asked, wait(PATIENCE_MS)]);
  // only a device that is not in, or no longer, is shown the page for its code
  if (answer && url.pathname === JOIN) event.waitUntil(forgetAll());
  if (!answer) return (await keptPage(url)) || (await asked) || nobody(NOT_KEPT);
  const saidOnce = ONCE_ONLY.some((name) => url.searchParams.has(name));
  if (isPage(answer) && !answer.redirected && !saidOnce) {
    event.waitUntil(keepPage(url.pathname + url.search, answer.clone())); // nobody waits for it
  }
  return answer;
}

async function keepDrawings(found) {
  const pages = await caches.open(PAGES);
  for (const [key, svg] of Object.entries(found)) await pages.put(`${DRAWINGS}/${key}`, new Response(svg));
}

async function drawings(request, url) {
  const answer = await fetch(request).catch(() => null);
  if (answer) return answer;
  const pages = await caches.open(PAGES);
  const found = {};
  for (const key of url.searchParams.get("fish").split(",")) {
    const kept = await pages.match(`${DRAWINGS}/${key}`);
    if (kept) found[key] = await kept.text();
  }
  return Response.json(found);
}

// Every address of a shipped file bears a mark of its content, so what was kept is right for good.
async function file(request) {
  const kept = await (await caches.open(FILES)).match(request);
  return kept || fetch(request);
}

async function keepFiles(wanted) {
  const files = await caches.open(FILES);
  for (const path of wanted) if (!(await files.match(path))) await files.add(path);
  const known = new Set(wanted.map((path) => new URL(path, location.origin).href));
  for (const request of await files.keys()) if (!known.has(request.url)) await files.delete(request);
}

// Pages that are missing, or older than `oldest` ms, unless it is started again meanwhile.
async function keepPages(paths, oldest, isOver) {
  const pages = await caches.open(PAGES);
  for (const path of paths) {
    if (isOver()) return;
    const kept = await pages.match(path);
    if (kept && Date.now() - Number(kept.headers.get(KEPT_AT)) < oldest) continue;
    const answer = await fetch(path);
    if (isPage(answer) && !answer.redirected) await keepPage(path, answer);
    await wait(PAUSE_MS);
  }
}

async function forgetAll() {
  await caches.delete(PAGES);
  await caches.delete(FILES);
}

async function keepAll(isOver) {
  const answer = await fetch(LIST, { headers: { accept: "application/json" } });
  if (answer.status === 401 || answer.status === 403) await forgetAll(); // this device was let out
  if (!answer.ok) return;
  const list = await answer.json();
  let pages = await caches.open(PAGES);
  const before = await (await pages.match(LIST))?.json();
  if (before && before.look !== list.look) {
    await caches.delete(PAGES);
    pages = await caches.open(PAGES);
  }
  await pages.put(LIST, Response.json(list));
  await keepFiles(list.files);
  await keepPages(list.fresh, FRESH_MS, isOver);
  await keepPages(list.lasting, Infinity, isOver);
  for (const path of list.drawings) {
    if (isOver()) return;
    if (await pages.match(path)) continue;
    const found = await fetch(path);
    if (!found.ok) continue;
    await keepDrawings(await found.json());
    await pages.put(path, new Response("kept"));
  }
  // what was only visited goes when there is much of it, the oldest first
  const listed = new Set([LIST, ...list.fresh, ...list.lasting]);
  const pathOf = ({ url }) => url.slice(location.origin.length);
  const visited = (await pages.keys()).filter((one) => !listed.has(pathOf(one)) && !pathOf(one).startsWith(DRAWINGS));
  for (const old of visited.slice(0, Math.max(0, visited.length - MAX_VISITED))) await pages.delete(old);
}

// Asked again it starts again, since the units may be others now. Where the app stops answering it goes on next time.
let turn = 0;
function keep() {
  const mine = ++turn;
  return keepAll(() => mine !== turn).catch(() => {});
}

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
self.addEventListener("message", (event) => {
  if (event.data === "keep") event.waitUntil(keep());
  if (event.data === "forget") event.waitUntil(forgetAll());
});
self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (url.origin !== location.origin) return;
  if (request.mode === "navigate") event.respondWith(page(event, request, url));
  else if (request.method !== "GET") return;
  else if (url.pathname === DRAWINGS) event.respondWith(drawings(request, url));
  else if (url.pathname.startsWith("/static/")) event.respondWith(file(request));
});
