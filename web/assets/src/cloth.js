// A tap on the board of plugs is sent to the server, which returns the new board. Without a script
// the same button sends the form. Nothing is recorded by it.
export const cloth = () => ({
  turn: 0,

  init() {
    // The browser has restored earlier input only now.
    const form = this.$root.closest("form");
    this.centre();
    queueMicrotask(() => {
      const fields = [...this.$root.querySelectorAll("input.visually-hidden")];
      if (fields.some((f) => f.value !== f.defaultValue)) this.ask(form, "");
    });
    form.addEventListener("change", (event) => {
      if (event.target.matches("#cloth select")) this.ask(form, "");
    });
  },

  // centre scrolls the selected plug into view.
  centre() {
    const cloth = this.$root.querySelector(".cloth");
    const plug = cloth?.querySelector(".current");
    if (plug) cloth.scrollLeft = plug.offsetLeft - (cloth.clientWidth - plug.offsetWidth) / 2;
  },

  tap(event) {
    const button = event.target.closest("[data-tap]");
    if (!button) return;
    event.preventDefault();
    this.ask(button.form, button.value, button);
  },

  async ask(form, value, button) {
    const turn = ++this.turn;
    const typed = new URLSearchParams(new FormData(form));
    typed.set("tap", value);
    try {
      const answer = await fetch(`${form.action}/tap?part=board`, { method: "POST", body: typed });
      const page = new DOMParser().parseFromString(await answer.text(), "text/html");
      const fresh = page.getElementById("cloth");
      if (turn !== this.turn || !fresh) return;
      const held = document.activeElement?.id;
      const caret = document.activeElement?.selectionStart;
      // Input since the request is kept.
      for (const old of this.$root.querySelectorAll("input[id], select[id]")) {
        const now = fresh.querySelector(`#${CSS.escape(old.id)}`);
        if (now && old.value !== typed.get(old.name)) now.value = old.value;
      }
      this.$root.replaceChildren(...fresh.childNodes);
      this.centre();
      this.$root.dataset.turn = turn;
      const photos = document.getElementById("photos");
      const now = page.getElementById("photos");
      if (photos && now) photos.replaceChildren(...now.childNodes);
      (document.getElementById(held) || this.$root.querySelector(".answer") || this.$root.querySelector(".current"))?.focus({ preventScroll: true });
      if (held && document.activeElement.id === held && caret != null) document.activeElement.setSelectionRange?.(caret, caret);
      form.dispatchEvent(new Event("input", { bubbles: true }));
    } catch {
      button?.setAttribute("aria-invalid", "true");
    }
  },
});
