// Every fetch of the app. Numbers come ready to show; no formula stands in a script.
"use strict";
window.lepidos = {
  // The answer, or `otherwise` when the server has none to give.
  async get(path, otherwise) {
    try {
      const answer = await fetch(path, { headers: { accept: "application/json" } });
      return answer.ok ? await answer.json() : otherwise;
    } catch {
      return otherwise;
    }
  },
  // What a form's fields come to: { ok, status, body }, or null when the server could not be asked. A form that leads
  // to a page is done; what it did is asked for by its key.
  async post(path, fields) {
    try {
      const body = new URLSearchParams(fields);
      const answer = await fetch(path, { method: "POST", body, headers: { accept: "application/json" }, redirect: "manual" });
      if (answer.type === "opaqueredirect") return { ok: true, status: 200, body: await this.get(`/live/done/${body.get("key")}`, { sentence: "Done" }) };
      // an answer that is no JSON is not the app's own (a hotel's sign-in page, say), unless it says that it failed
      const said = answer.status >= 500 ? await answer.json().catch(() => ({})) : await answer.json();
      return { ok: answer.ok, status: answer.status, body: said };
    } catch {
      return null;
    }
  },
  // The parts of a page that are not as `marks` (id → mark) says: { mark, marks, regions }, or null.
  async regions(path, marks) {
    const known = Object.entries(marks).map(([id, mark]) => `${id}:${mark}`).join(" ");
    try {
      const answer = await fetch(path, { headers: { accept: "application/json", "x-lepidos-live": known } });
      return answer.ok ? await answer.json() : null;
    } catch {
      return null;
    }
  },
  // A key for a write. randomUUID would need HTTPS, which a boat's network seldom has.
  newKey() {
    return [...crypto.getRandomValues(new Uint8Array(13))].map((b) => b.toString(16).padStart(2, "0")).join("");
  },
};
