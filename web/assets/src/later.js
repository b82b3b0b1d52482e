// Fetches a slow part of the page after the page has loaded. Without a script the link in its place
// leads to it.
export const later = () => ({
  async init() {
    const { from, part } = this.$root.dataset;
    try {
      const page = await (await fetch(from)).text();
      const found = new DOMParser().parseFromString(page, "text/html").getElementById(part);
      if (found) this.$root.replaceChildren(...found.childNodes);
    } catch {
      // The link stays.
    }
  },
});
