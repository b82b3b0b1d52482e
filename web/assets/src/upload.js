// Uploads a large file with progress. A cancelled upload is discarded. Without a script it is a
// plain form.
export const upload = () => ({
  busy: false,
  broken: false,
  share: 0,
  words: "",
  said: "",
  going: null,

  send(event) {
    const form = this.$root;
    const file = form.querySelector("input[type=file]").files[0];
    if (!file) return; // the server says what is missing
    event.preventDefault();
    const going = new XMLHttpRequest();
    const mb = (bytes) => (bytes / 1e6).toFixed(1);
    this.going = going;
    this.busy = true;
    this.broken = false;
    this.share = 0;
    this.words = "begins";
    going.upload.onprogress = (sent) => {
      this.share = (100 * sent.loaded) / sent.total;
      this.words = sent.loaded < sent.total ? `${mb(sent.loaded)} of ${mb(sent.total)} MB read` : "looking for the events";
    };
    going.onload = () => {
      this.busy = false;
      if (going.responseURL && going.status < 300) {
        location.assign(going.responseURL);
        return;
      }
      this.show(going.responseText);
    };
    going.onerror = () => this.stop("It was not sent to the end. Nothing was recorded; the file is still chosen.");
    going.onabort = () => this.stop("");
    going.open("POST", form.action);
    going.send(new FormData(form));
  },

  stop(said) {
    this.busy = false;
    this.broken = said !== "";
    this.said = said;
  },

  cancel() {
    this.going?.abort();
  },

  // show replaces the form by the server's answer; the file stays selected.
  show(page) {
    const fresh = new DOMParser().parseFromString(page, "text/html");
    for (const old of this.$root.querySelectorAll(".wrong:not([x-show])")) old.remove();
    for (const field of this.$root.querySelectorAll("input[id], select[id]")) {
      field.removeAttribute("aria-invalid");
      const now = fresh.getElementById(field.id);
      if (!now?.hasAttribute("aria-invalid")) continue;
      field.setAttribute("aria-invalid", "true");
      const said = now.nextElementSibling;
      if (said?.matches(".wrong")) field.after(document.importNode(said, true));
    }
    if (!this.$root.querySelector("[aria-invalid]")) this.stop(fresh.querySelector("main p")?.textContent || "The server could not take the file. Nothing was recorded.");
    else this.$root.querySelector("[aria-invalid]").focus();
  },
});
