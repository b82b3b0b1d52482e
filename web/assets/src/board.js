// A page that watches the vehicle. The server sends everything that changes as server-sent events; each event is whole, so
// nothing is missed by a lost connection. Elements name what they show: data-text, data-value, data-shown, data-path.
export const board = () => ({
  source: null,
  tone: "",
  audio: null,

  init() {
    this.connect();
    for (const form of this.$root.querySelectorAll("form[data-quiet]")) form.addEventListener("submit", (event) => this.quiet(event));
    for (const form of this.$root.querySelectorAll("form[data-once]")) {
      form.addEventListener("submit", () => setTimeout(() => form.querySelector("button").setAttribute("disabled", "")));
    }
    this.$root.querySelector("[data-tone]")?.addEventListener("change", (event) => {
      this.audio = event.target.checked ? new AudioContext() : null;
      if (this.audio) this.beep(660);
    });
  },

  destroy() {
    this.source?.close();
  },

  connect() {
    this.source = new EventSource(this.$root.dataset.from);
    this.source.onmessage = (event) => {
      this.lost(false);
      this.show(JSON.parse(event.data));
    };
    this.source.onerror = () => {
      this.lost(true);
      if (this.source.readyState !== EventSource.CLOSED) return; // the browser tries again by itself
      setTimeout(() => this.connect(), 3000);
    };
  },

  lost(is) {
    const words = this.$root.querySelector(".page-lost");
    if (words) words.hidden = !is;
    this.$root.toggleAttribute("data-lost", is);
  },

  show(board) {
    const each = (name, put) => {
      for (const element of this.$root.querySelectorAll(`[data-${name}]`)) put(element, element.dataset[name]);
    };
    each("text", (element, key) => {
      const text = board.texts[key] ?? "";
      if (element.textContent !== text) element.textContent = text;
    });
    each("value", (element, key) => {
      element.value = board.values[key] ?? 0;
    });
    each("shown", (element, key) => {
      element.hidden = !board.shown[key];
    });
    each("path", (element, key) => {
      element.setAttribute("d", board.paths[key] ?? "");
    });
    this.$root.dataset.state = board.state;
    this.$root.toggleAttribute("data-against", Boolean(board.shown.against));
    if (this.tone && board.tone !== this.tone) this.beep(/lost|silent|misfires|Not fixed/.test(board.tone) ? 330 : 880);
    this.tone = board.tone;
  },

  beep(hertz) {
    if (!this.audio) return;
    const sound = this.audio.createOscillator();
    const volume = this.audio.createGain();
    sound.frequency.value = hertz;
    volume.gain.value = 0.2;
    sound.connect(volume).connect(this.audio.destination);
    sound.start();
    sound.stop(this.audio.currentTime + 0.35);
  },

  // A command to the simulated vehicle leaves the page as it is.
  async quiet(event) {
    event.preventDefault();
    const typed = new URLSearchParams(new FormData(event.target, event.submitter));
    await fetch(event.target.action, { method: "POST", body: typed, redirect: "manual" }).catch(() => this.lost(true));
  },
});
