// The search above the list of jobs: what is typed or chosen is searched at once, and the address follows. Without a script the
// form is sent with its button.
export const seek = () => ({
  timer: 0,
  turn: 0,

  typed() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.ask(), 200);
  },

  async ask() {
    const turn = ++this.turn;
    const asked = new URLSearchParams();
    for (const [name, value] of new FormData(this.$refs.form)) if (value) asked.append(name, value);
    const address = asked.size ? `/jobs?${asked}` : "/jobs";
    try {
      const answer = await fetch(address);
      if (!answer.ok) throw new Error(answer.statusText);
      const page = new DOMParser().parseFromString(await answer.text(), "text/html");
      if (turn !== this.turn) return;
      this.$refs.found.replaceChildren(...page.getElementById("listed").childNodes);
      this.$refs.trouble.textContent = "";
      history.replaceState(null, "", address);
    } catch {
      if (turn === this.turn) this.$refs.trouble.textContent = "The server cannot be reached. The list below is from the search before.";
    }
  },
});
