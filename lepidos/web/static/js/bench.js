// The bench with a knife in the other hand: take what the scale shows, keep it until the server has it.
"use strict";
document.addEventListener("alpine:init", () => {
  const SOON_MS = 800, AGAIN_MS = 600, HOLD_MS = 900, SAID_MS = 12_000;
  const phone = window.matchMedia("(max-width: 820px)");
  window.Alpine.data("bench", () => ({
    fish: "", group: "", queued: false, queuedText: "", tray: false, big: false, sound: true, trayText: "false", bigText: "false",
    soundText: "true", holdText: "Hold to unlock", holding: 0, lastMark: "", lastAt: 0, lastForm: "", taken: new Map(), fading: 0, told: new Set(),
    init() {
      this.fish = this.$root.dataset.fish;
      this.group = `fish:${this.fish}`;
      this.tray = sessionStorage.getItem("lepidos.tray") === "on";
      this.big = sessionStorage.getItem("lepidos.big") === "on";
      this.sound = window.lepidos.sound();
      this.paint();
      for (const entry of window.lepidos.queue.waiting(this.group)) if (entry.slot) this.taken.set(entry.slot, Infinity);
      document.addEventListener("lepidos:queue", () => this.count());
      document.addEventListener("lepidos:arrived", (e) => this.arrived(e.detail));
      document.addEventListener("lepidos:refused", () => this.refused());
      document.addEventListener("lepidos:fresh", (e) => this.fresh(e.detail.asked));
      window.addEventListener("resize", () => this.measure());
      document.addEventListener("lepidos:scale", (e) => { if (e.detail) this.say(e.detail, "refused"); });
      document.addEventListener("submit", (e) => { this.with(e); this.keep(e); });
      setInterval(() => this.tick(), 1000);
      this.count();
      this.refused();
    },
    paint() {
      document.body.classList.toggle("big", this.big);
      this.trayText = String(this.tray);
      this.bigText = String(this.big);
      this.soundText = String(this.sound);
    },
    turnTray() { this.tray = !this.tray; sessionStorage.setItem("lepidos.tray", this.tray ? "on" : "off"); this.paint(); },
    turnBig() { this.big = !this.big; sessionStorage.setItem("lepidos.big", this.big ? "on" : "off"); this.paint(); },
    turnSound() { this.sound = !this.sound; window.lepidos.sound(this.sound); this.paint(); if (this.sound) window.lepidos.cue("taken"); },
    lock() { this.$refs.splash.showModal(); },
    unlock() { this.letGo(); this.$refs.splash.close(); },
    hold() { this.holdText = "Keep holding …"; this.holding = setTimeout(() => this.unlock(), HOLD_MS); },
    letGo() { clearTimeout(this.holding); this.holdText = "Hold to unlock"; },
    tick() {
      for (const clock of document.querySelectorAll("[data-running]")) {
        const seconds = Number(clock.dataset.worked) + 1;
        clock.dataset.worked = seconds;
        clock.textContent = `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
      }
    },
    // What the display shows now; null with a reason said when it cannot be taken.
    display() {
      const scale = window.lepidos.scale;
      if (!scale || scale.off) return this.say(scale?.note || "The scale does not answer.", "refused");
      if (!scale.steady) return this.say("The scale is still moving.", "refused");
      if (scale.mark === this.lastMark) return this.say("That load was taken already. Lift it off, then lay the next on.", "refused");
      return scale;
    },
    send(event) {
      const slot = event.submitter?.value;
      if (!slot) return;
      event.preventDefault();
      event.stopPropagation();
      delete event.target.dataset.sent;
      // Enter in the field is the form's first button, which takes what the main one offers
      const shown = event.submitter.id === "b-default" ? document.getElementById("b-take") : event.submitter;
      const name = shown.textContent.replace(/^\s*Take as /, "").replace(/\s*Space\s*$/, "").trim();
      const typed = this.$refs.typed.value.trim(), fields = [["slot", slot]];
      // one knock of a glove is one take; a weight typed since then is meant: a take empties the field
      if (!typed && Date.now() - this.lastAt < AGAIN_MS) return;
      let said = `${name} ${typed}`;
      if (typed) fields.push(["weight", typed]);
      else {
        const scale = this.display();
        if (!scale) return;
        fields.push(["shown_kg", String(scale.kg)], ["mark", scale.mark], ["in_tray", this.tray ? "1" : ""]);
        said = `${name} ${scale.shown}`;
        this.lastMark = scale.mark;
      }
      this.corrected((e) => e.slot === slot);
      if (!this.put(`/live/fish/${this.fish}/weighings`, said, fields, { slot })) return;
      this.unmark(event.target);
      this.lastAt = Date.now();
      this.$refs.typed.value = "";
      // the next press of Space is the next piece, whichever button this one was
      if (document.activeElement === event.submitter) document.getElementById("b-take")?.focus({ preventScroll: true });
      window.lepidos.cue("taken");
    },
    put(path, said, fields, more) {
      if (more.slot) this.taken.set(more.slot, Infinity);
      try {
        window.lepidos.queue.add(path, this.group, said, fields, more);
      } catch {
        this.taken.delete(more.slot);
        this.say("The browser has no room left to keep this. Write it down.", "refused");
        return false;
      }
      return true;
    },
    // The page's other forms wait for the server, too. After one marked "page", and of a finished fish, there is a
    // new page to show: other parts stand on it.
    keep(event) {
      const form = event.target, button = event.submitter;
      if (event.defaultPrevented || !form.matches("[data-waits], [action='/undo']")) return;
      event.preventDefault();
      delete form.dataset.sent;
      const path = form.getAttribute("action");
      const fields = [...new FormData(form)].filter(([name]) => name !== "key");
      if (button?.name) fields.push([button.name, button.value]);
      const same = JSON.stringify([path, fields]);
      if (path === this.lastForm && Date.now() - this.lastAt < AGAIN_MS) return;
      if (window.lepidos.queue.waiting(this.group).some((e) => JSON.stringify([e.path, e.fields]) === same)) return this.say("That is on its way already.", "");
      const words = button ? button.cloneNode(true) : null;
      words?.querySelectorAll(".key, .visually-hidden").forEach((e) => e.remove());
      this.corrected((e) => e.path === path && this.field(e, "") === undefined && path !== "/undo");
      const said = [form.dataset.said, (words?.textContent || "Done").trim()].filter(Boolean).join(": ");
      if (!this.put(path, said, fields, { page: form.dataset.waits === "page" || "closed" in this.$root.dataset })) return;
      this.lastForm = path;
      this.lastAt = Date.now();
      form.closest("details")?.removeAttribute("open");
      if (form.contains(document.activeElement) && document.activeElement.matches("input")) document.activeElement.blur();
    },
    // What was taken is not offered again until a page that was asked for after its arrival says so.
    fresh(asked) {
      for (const [slot, arrived] of this.taken) if (arrived < asked) this.taken.delete(slot);
      this.point();
    },
    // While weighings are on their way, the main button goes on to what comes after them.
    point() {
      const take = document.getElementById("b-take");
      if (!take) return this.measure();
      const coming = JSON.parse(take.dataset.coming);
      const [slot, name] = coming.find(([key]) => !this.taken.has(key)) || ["", ""];
      const enter = document.getElementById("b-default");
      if (enter) { enter.value = slot; enter.disabled = !slot; }
      if (slot === take.value) return this.measure();
      take.hidden = take.disabled = !slot;
      take.value = slot;
      take.querySelector("[data-piece]").textContent = name;
      const usually = document.querySelector("#bench-take .usually");
      if (usually) usually.hidden = slot !== coming[0][0];
      this.measure();
    },
    // How much of a phone's foot the take needs: what is said stands above it.
    measure() {
      const foot = document.getElementById("bench-take");
      const fixed = foot && getComputedStyle(foot).position === "fixed";
      document.documentElement.style.setProperty("--foot", `${fixed ? foot.offsetHeight : 0}px`);
    },
    // Other forms that take the weight carry what the display shows, too.
    with(event) {
      if (!event.target.matches("[data-with-display]") || event.target.elements.weight?.value.trim()) return;
      const scale = this.display();
      if (!scale) { delete event.target.dataset.sent; return event.preventDefault(); }
      for (const [name, value] of [["shown_kg", scale.kg], ["mark", scale.mark]]) {
        event.target.append(Object.assign(document.createElement("input"), { type: "hidden", name, value }));
      }
    },
    count() {
      const waiting = window.lepidos.queue.waiting(this.group);
      this.queued = waiting.some((e) => Date.now() - e.at > SOON_MS);
      this.point();
      if (waiting.length && !this.queued) setTimeout(() => this.count(), SOON_MS + 50);
      this.queuedText = `${waiting.length} on the way: ${waiting.map((e) => e.said).join(", ")}. Kept here until they arrive.`;
    },
    arrived({ entry, body }) {
      if (entry.group !== this.group) return;
      if (entry.slot) this.taken.set(entry.slot, performance.now());
      if (entry.page) return location.assign(`/fish/${this.fish}?done=${entry.key}`);
      if (body.question) window.lepidos.cue("asked");
      this.say(body.sentence, body.question ? "asked" : "", body);
      window.lepidos.refresh();
    },
    // What was set aside is kept until it is sent again, corrected or dropped; it is told here once.
    refused() {
      for (const entry of window.lepidos.queue.refused(this.group)) {
        if (this.told.has(entry.key)) continue;
        this.told.add(entry.key);
        this.taken.delete(entry.slot);
        this.point();
        this.say(`${entry.said}: ${entry.problem.map((p) => p[1]).join(" ")}`, "refused");
        for (const [field, detail] of entry.problem) this.mark(this.field(entry, field), new Map(entry.fields).get(field), detail);
      }
    },
    // What was set aside and is now done in another way is done.
    corrected(same) {
      for (const entry of window.lepidos.queue.refused(this.group)) if (same(entry)) window.lepidos.queue.forget(entry.key);
    },
    // What was wrong stands at its field, and what was typed in it again.
    mark(input, typed, detail) {
      if (!input || typed === undefined) return;
      this.unmark(input.form);
      const said = Object.assign(document.createElement("p"), { className: "field-problem", id: `problem-${input.id}`, textContent: detail });
      input.value = typed;
      input.setAttribute("aria-invalid", "true");
      input.setAttribute("aria-describedby", said.id);
      input.after(said);
      input.closest("details")?.setAttribute("open", "");
      input.focus();
    },
    unmark(form) {
      form.querySelectorAll(".field-problem").forEach((old) => old.remove());
      form.querySelectorAll("[aria-invalid]").forEach((old) => old.removeAttribute("aria-invalid"));
    },
    field(entry, name) {
      if (entry.slot) return name === "weight" ? this.$refs.typed : null;
      const sent = new Map(entry.fields);
      const mine = (form) => [...form.querySelectorAll("[type=hidden]")].every((h) => h.name === "key" || sent.get(h.name) === h.value);
      return [...document.querySelectorAll(`form[action="${CSS.escape(entry.path)}"]`)].find(mine)?.querySelector(`[name="${CSS.escape(name)}"]:not([type=hidden], button)`);
    },
    say(text, kind, done) {
      if (kind === "refused") window.lepidos.cue("refused");
      const box = Object.assign(document.createElement("div"), { className: `said ${kind}` });
      box.setAttribute("role", kind === "refused" ? "alert" : "status");
      box.append(Object.assign(document.createElement("p"), { textContent: text }));
      if (done?.kind) box.append(this.undo(done));
      this.$root.querySelector("[data-said]").replaceChildren(box);
      // on a phone it lies over the page: what was only taken goes by itself
      clearTimeout(this.fading);
      if (!kind && phone.matches) this.fading = setTimeout(() => box.remove(), SAID_MS);
      document.querySelectorAll(".main > .said").forEach((old) => old.remove());
      return null;
    },
    undo({ kind, id }) {
      const form = Object.assign(document.createElement("form"), { method: "post", action: "/undo" });
      const fields = { key: window.lepidos.newKey(), kind, id, back: location.pathname + location.search };
      for (const [name, value] of Object.entries(fields)) form.append(Object.assign(document.createElement("input"), { type: "hidden", name, value }));
      const button = Object.assign(document.createElement("button"), { className: "btn", textContent: "Undo" });
      button.dataset.key = "z";
      form.append(button);
      return form;
    },
  }));
});
