import Alpine from "@alpinejs/csp";

// Saves a picture as PNG: the server's drawing at twice the size. For a zoomed trace, SVG and PNG
// show the visible part.
export const save = () => ({
  init() {
    this.$root.addEventListener("pointerdown", () => this.aim());
    this.$root.addEventListener("focus", () => this.aim());
  },

  // aim adds the visible part to the address.
  aim() {
    const board = this.$root.closest("figure[data-kind]");
    if (!board) return;
    const at = new URL(this.$root.href, location.href);
    for (const [name, value] of Object.entries(Alpine.$data(board).shown())) at.searchParams.set(name, value);
    this.$root.setAttribute("href", at.pathname + at.search);
  },

  async png(event) {
    event.preventDefault();
    this.aim();
    const image = new Image();
    image.src = this.$root.href;
    await image.decode();
    const canvas = document.createElement("canvas");
    canvas.width = 2 * image.naturalWidth;
    canvas.height = 2 * image.naturalHeight;
    canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
    const link = document.createElement("a");
    link.download = this.$root.getAttribute("download");
    link.href = canvas.toDataURL("image/png");
    link.click();
  },
});
