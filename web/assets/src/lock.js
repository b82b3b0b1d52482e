// A device that several people use: switches the person by PIN, and locks after a time without use. What was typed
// stays, since the page stays.
export const lock = () => ({
  locked: false,
  used: 0,
  told: 0,

  init() {
    this.used = this.told = Date.now();
    for (const kind of ["pointerdown", "keydown", "input"]) document.addEventListener(kind, () => this.use(), { passive: true });
    setInterval(() => this.check(), 5000);
    document.addEventListener("visibilitychange", () => this.check());
    document.addEventListener("click", (event) => {
      if (!event.target.closest("[data-switch]")) return;
      event.preventDefault();
      this.open();
    });
  },

  after() {
    return 1000 * this.$root.dataset.after;
  },

  // use notes that somebody works here, and tells the server once a minute.
  use() {
    this.check();
    if (this.locked) return;
    this.used = Date.now();
    if (this.used - this.told < 60000) return;
    this.told = this.used;
    fetch("/awake", { method: "POST" }).catch(() => {});
  },

  check() {
    if (this.locked || Date.now() - this.used < this.after()) return;
    this.locked = true;
    this.open();
  },

  // open shows who can sign in here, from the sign-in page.
  async open() {
    const at = `/sign-in?${new URLSearchParams({ back: location.pathname + location.search })}`;
    try {
      const page = new DOMParser().parseFromString(await (await fetch(at)).text(), "text/html");
      const form = page.querySelector("form.by-pin");
      if (!form) throw new Error("no PIN");
      form.querySelectorAll("[x-show]").forEach((part) => part.remove());
      this.$refs.who.replaceChildren(form);
    } catch {
      location.assign(at);
      return;
    }
    const form = this.$refs.who.querySelector("form");
    form.removeAttribute("x-data");
    form.addEventListener("change", (event) => {
      if (event.target.name === "person") form.elements.pin.focus();
    });
    form.addEventListener("submit", (event) => this.send(event));
    this.$refs.said.textContent = "";
    if (!this.$refs.lock.open) this.$refs.lock.showModal();
  },

  // send signs in. The same person goes on with the page as it is; for another one it is loaded anew, and drafts are
  // filled in again.
  async send(event) {
    event.preventDefault();
    const form = event.target;
    const name = form.querySelector("[name=person]:checked + label")?.textContent.trim();
    try {
      const answer = await fetch(form.action, { method: "POST", body: new URLSearchParams(new FormData(form)) });
      if (answer.ok) {
        if (name !== document.querySelector("[data-switch]").textContent.trim()) {
          location.reload();
          return;
        }
        this.used = this.told = Date.now();
        this.locked = false;
        this.$refs.lock.close();
        return;
      }
      const page = new DOMParser().parseFromString(await answer.text(), "text/html");
      this.$refs.said.textContent = page.querySelector("main > .word.bad, main p")?.textContent || "Not signed in.";
      form.elements.pin.value = "";
      form.elements.pin.focus();
    } catch {
      this.$refs.said.textContent = "The server cannot be reached. Try again.";
    }
  },

  // stay keeps a locked page from being uncovered by Escape.
  stay(event) {
    if (this.locked) event.preventDefault();
  },

  close() {
    if (!this.locked) this.$refs.lock.close();
  },
});
