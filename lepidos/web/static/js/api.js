// Every fetch of the app. Numbers come ready to show; no formula stands in a script.
const JSON_ONLY = { accept: "application/json" };
const ANSWER_MS = 4000;
const POST_MS = 15_000; // a connection may hang for minutes: what is sent again counts once, by its key

// A device that was let out keeps nothing of the boat's.
async function ask(path, more) {
  const answer = await fetch(path, more);
  if (answer.status === 401) navigator.serviceWorker?.controller?.postMessage("forget");
  return answer;
}

/** The answer, or `otherwise` when the server has none to give. */
export async function getJson(path, otherwise) {
  try {
    const answer = await ask(path, { headers: JSON_ONLY });
    return answer.ok ? await answer.json() : otherwise;
  } catch {
    return otherwise;
  }
}

/**
 * What a form's fields come to: { ok, status, body, later }, or null when the server could not be asked.
 * `later`: the app asks for the same again in a while, since nothing is wrong with what was sent.
 * A form that leads to a page is done; what it did is asked for by its key.
 */
export async function postForm(path, fields) {
  try {
    const body = new URLSearchParams(fields);
    const signal = AbortSignal.timeout(POST_MS);
    const answer = await ask(path, { method: "POST", body, headers: JSON_ONLY, redirect: "manual", signal });
    if (answer.type === "opaqueredirect") {
      const done = await getJson(`/live/done/${body.get("key")}`, { sentence: "Done" });
      return { ok: true, status: 200, body: done };
    }
    // an answer that is not JSON is not the app's own (a hotel's sign-in page, say), unless it says that it failed
    const said = answer.status >= 500 ? await answer.json().catch(() => ({})) : await answer.json();
    return { ok: answer.ok, status: answer.status, body: said, later: answer.headers.has("retry-after") };
  } catch {
    return null;
  }
}

/** Whether the app answers, asked with no more patience than a person has. */
export async function answers() {
  try {
    const answer = await fetch("/api/v1/health", { headers: JSON_ONLY, signal: AbortSignal.timeout(ANSWER_MS) });
    return answer.ok && Boolean(await answer.json());
  } catch {
    return false;
  }
}

const documentOf = async (answer) => new DOMParser().parseFromString(await answer.text(), "text/html");

/** A page as a document, or null. */
export async function fetchPage(path) {
  try {
    const answer = await fetch(path);
    return answer.ok ? await documentOf(answer) : null;
  } catch {
    return null;
  }
}

/** As `fetchPage`, of a page that this device keeps: as it was kept when nothing answers. */
export async function fetchKeptPage(path) {
  const kept = async () => (self.caches ? caches.match(path) : null); // a page over plain HTTP has no caches
  const found = await fetchPage(path);
  if (found) return found;
  const page = await kept().catch(() => null);
  return page ? documentOf(page) : null;
}

/** The parts of a page that differ from `marks` (id → mark): { mark, marks, regions }, or null. */
export async function fetchRegions(path, marks) {
  const known = Object.entries(marks).map(([id, mark]) => `${id}:${mark}`).join(" ");
  try {
    const answer = await ask(path, { headers: { ...JSON_ONLY, "x-lepidos-live": known } });
    return answer.ok ? await answer.json() : null;
  } catch {
    return null;
  }
}

/** The code of a label on a picture: { code }, or { said } with why there is none. */
export async function readPhoto(picture) {
  try {
    const body = new FormData();
    body.append("photo", picture, "label.jpg");
    const answer = await fetch("/freezer/look", { method: "POST", body, headers: JSON_ONLY });
    return await answer.json();
  } catch {
    return { said: "The app does not answer." };
  }
}

/** A key for a write. randomUUID would need HTTPS, which a boat's network seldom has. */
export function newKey() {
  return [...crypto.getRandomValues(new Uint8Array(13))].map((b) => b.toString(16).padStart(2, "0")).join("");
}
