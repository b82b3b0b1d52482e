// The search of a page: "/" or Ctrl-K opens it, and the server searches the input. The arrow keys
// select, Enter opens. Without a script the link leads to the page of the search.
export const find = () => ({
  timer: 0,
  turn: 0,

  init() {
    document.addEventListener("keydown", (event) => {
      if ((event.ctrlKey || event.metaKey) && event.key === "k") {
        event.preventDefault();
        this.open();
      }
    });
  },

  open() {
    this.$refs.find.showModal();
    this.$refs.q.select();
    this.ask();
  },

  close() {
    this.$refs.find.close();
  },

  typed() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.ask(), 120);
  },

  async ask() {
    const turn = ++this.turn;
    const address = this.$refs.form.getAttribute("action");
    try {
      const page = await (await fetch(`${address}?q=${encodeURIComponent(this.$refs.q.value)}`)).text();
      if (turn !== this.turn) return;
      const found = new DOMParser().parseFromString(page, "text/html").getElementById("found");
      this.$refs.found.replaceChildren(...(found ? found.childNodes : []));
    } catch {
      this.$refs.found.textContent = "The server cannot be reached.";
    }
  },

  move(event) {
    const links = [...this.$refs.found.querySelectorAll("a")];
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step || !links.length) return;
    event.preventDefault();
    const next = links.indexOf(document.activeElement) + step;
    if (next < 0) this.$refs.q.focus();
    else links[Math.min(next, links.length - 1)].focus();
  },

  go(event) {
    const first = this.$refs.found.querySelector("a");
    if (!first) return;
    event.preventDefault();
    first.click();
  },
});
