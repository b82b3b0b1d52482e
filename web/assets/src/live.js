// A calculator answers while the user types: the server's answer replaces the last one. Incomplete
// input only removes the last answer. A shown error is removed once it is corrected. No error is
// shown before the button is pressed.
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
      return; // the button works again when the server can be reached
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
