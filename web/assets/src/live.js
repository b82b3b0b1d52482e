// A calculator answers while one types: the server works it out, and its answer takes the
// place of the last. What is not complete yet only takes the last answer away; an error that
// was said is taken back once it is mended, and none is said before the button is pressed.
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
    const fresh = new DOMParser().parseFromString(page, "text/html");
    const answer = fresh.getElementById("answer");
    this.$root.querySelector("#answer").replaceChildren(...(answer ? answer.childNodes : []));
    for (const field of this.$root.querySelectorAll("[aria-invalid]")) {
      if (fresh.getElementById(field.id)?.hasAttribute("aria-invalid")) continue;
      field.removeAttribute("aria-invalid");
      field.parentElement.querySelector(".wrong")?.remove();
    }
  },
});
