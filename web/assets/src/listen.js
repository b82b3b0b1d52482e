import { inks } from "./inks.js";

// The live scope: server-sent events carry some cycles each, which are drawn as they arrive, and
// the figures of the last seconds.
export const listen = () => ({
  source: null,
  heard: false,
  silent: false,
  label: "Listen",

  toggle() {
    if (this.source) this.stop();
    else this.start();
  },

  again() {
    if (!this.source) return;
    this.stop();
    this.start();
  },

  start() {
    const when = this.$root.querySelector("[name=condition]").value;
    this.silent = false;
    this.source = new EventSource(`${this.$root.dataset.from}?${new URLSearchParams({ condition: when })}`);
    this.source.onmessage = (event) => {
      this.heard = true;
      this.draw(JSON.parse(event.data));
    };
    this.source.onerror = () => {
      this.silent = true;
      this.stop();
    };
    this.label = "Stop";
  },

  stop() {
    this.source?.close();
    this.source = null;
    this.label = "Listen";
  },

  destroy() {
    this.stop();
  },

  draw(block) {
    const canvas = this.$refs.canvas;
    const pen = canvas.getContext("2d");
    const ink = inks(this.$root, ["fell", "peat"]);
    const { low, high, to } = block.trace;
    const top = Math.max(1200, ...high) * 1.1;
    const bottom = Math.min(-100, ...low) * 1.1;
    const y = (v) => canvas.height * (1 - (v - bottom) / (top - bottom));
    const x = (i) => (canvas.width * i) / low.length;
    pen.clearRect(0, 0, canvas.width, canvas.height);
    pen.strokeStyle = ink.fell;
    pen.fillStyle = ink.fell;
    pen.beginPath();
    for (let i = 0; i < high.length; i++) pen.lineTo(x(i), y(high[i]));
    for (let i = low.length - 1; i >= 0; i--) pen.lineTo(x(i), y(low[i]));
    pen.closePath();
    pen.fill();
    pen.stroke();
    pen.fillStyle = ink.peat;
    pen.font = `14px ${getComputedStyle(document.body).fontFamily}`;
    pen.textAlign = "center";
    for (const e of block.events) {
      if (!e.waste) pen.fillText(e.cylinder ? String(e.cylinder) : "–", (canvas.width * e.at) / to, Math.max(14, y(e.kv * 100) - 6));
    }
    const rows = block.lines.map((line) => {
      const row = document.createElement("tr");
      const cells = line.usual
        ? [line.usual.toFixed(1), `${line.low.toFixed(1)} to ${line.high.toFixed(1)}`, line.burn ? line.burn.toFixed(2) : "no arc", line.snap ? line.snap.toFixed(1) : "–"]
        : ["none", "–", "–", "–"];
      const head = document.createElement("th");
      head.scope = "row";
      head.textContent = String(line.cylinder);
      row.append(head);
      for (const text of cells) row.insertCell().textContent = text;
      return row;
    });
    this.$refs.lines.replaceChildren(...rows);
  },
});
