// A calculator answers while one types: the server works it out, and its answer takes the
// place of the last. What is not complete yet only takes the last answer away.
export const live = () => ({
  timer: 0,
  turn: 0,
  typed() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.ask(), 250);
  },
  async ask() {
    const turn = ++this.turn;
    const asked = new URLSearchParams(new FormData(this.$root));
    let page = "";
    try {
      page = await (await fetch(`${this.$root.getAttribute("action")}?${asked}`)).text();
    } catch {
      return; // the button still works when the server can be reached again
    }
    if (turn !== this.turn) return;
    const fresh = new DOMParser().parseFromString(page, "text/html").getElementById("answer");
    const answer = this.$root.querySelector("#answer");
    answer.replaceChildren(...(fresh ? fresh.childNodes : []));
  },
});
