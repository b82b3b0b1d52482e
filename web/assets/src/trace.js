import { inks } from "./inks.js";
import { beside, stretch } from "./trace/ask.js";
import { FOOT, HEAD, kilovolts, LEFT, reach } from "./trace/axes.js";
import { cursors } from "./trace/cursors.js";
import { cycleWords, over, row, stack } from "./trace/cycle.js";
import { hands } from "./trace/hands.js";
import { single } from "./trace/single.js";
import { panned, whole, zoomed } from "./trace/view.js";

const drawings = { trace: single, row, over, stack };

// A trace on a canvas, with zoom and pan by mouse, touch and keys. The server holds a pyramid of
// minima and maxima: any interval comes in as many columns as the canvas has. Available data are
// drawn at once, stretched, until the requested data arrive.
//
// The drawn data are not part of the component's reactive data, because each frame reads a thousand
// columns.
export const trace = () => {
  const own = { data: null, want: null, asking: false, a: null, b: null, cycle: 0, due: 0, colours: null };
  return {
    waiting: true,
    read: "",

    // shown is the visible interval, as requested from the server.
    shown() {
      const { from, to } = own.view;
      return own.single ? { from, to, channel: own.channel } : { cycle: own.cycle, before: Math.max(0, -from), after: Math.max(0.05, to) };
    },

    init() {
      const set = this.$root.dataset;
      const [from, to, seconds, before, after] = ["from", "to", "seconds", "before", "after"].map((k) => Number(set[k]));
      for (const k of ["cycle", "cycles", "channel", "cylinder"]) own[k] = Number(set[k]);
      Object.assign(own, { kind: set.kind, address: set.at, single: set.kind === "trace", limit: seconds });
      own.start = own.single ? { from, to } : { from: -before, to: after };
      own.view = { ...own.start };
      own.canvas = this.$refs.canvas;
      new ResizeObserver(() => this.fit()).observe(this.$refs.board);
      matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => {
        own.colours = null;
        this.soon();
      });
      hands(this.$refs.board, own, { pan: (by) => this.pan(by), zoom: (by, at) => this.zoom(by, at), mark: (name, at) => this.mark(name, at) });
      this.fit();
      this.ask();
    },

    fit() {
      own.wide = this.$refs.board.clientWidth;
      own.tall = own.kind === "stack" ? Math.max(260, 40 * Math.max(1, own.data?.shapes?.length || 6) + FOOT) : 300;
      own.dense = Math.min(2, devicePixelRatio || 1);
      own.canvas.width = own.wide * own.dense;
      own.canvas.height = own.tall * own.dense;
      own.canvas.style.width = `${own.wide}px`;
      own.canvas.style.height = `${own.tall}px`;
      this.soon();
    },

    press(event) {
      if (event.ctrlKey || event.altKey || event.metaKey) return;
      const span = own.view.to - own.view.from;
      const middle = own.view.from + span / 2;
      const does = {
        ArrowLeft: () => this.pan(-span / 8),
        ArrowRight: () => this.pan(span / 8),
        "+": () => this.zoom(0.8, 0.5),
        "=": () => this.zoom(0.8, 0.5),
        "-": () => this.zoom(1.25, 0.5),
        Home: () => this.whole(),
        PageUp: () => this.earlier(),
        PageDown: () => this.later(),
        a: () => this.mark("a", middle),
        b: () => this.mark("b", middle),
      }[event.key];
      if (!does) return;
      event.preventDefault();
      event.stopPropagation();
      does();
    },

    // mark sets a cursor.
    mark(name, at) {
      own[name] = at;
      this.soon();
    },

    left() { this.pan((own.view.from - own.view.to) / 4); },
    right() { this.pan((own.view.to - own.view.from) / 4); },
    closer() { this.zoom(0.7, 0.5); },
    wider() { this.zoom(1.4, 0.5); },
    earlier() { this.step(-1); },
    later() { this.step(1); },
    pan(by) { this.look(panned(own, by)); },
    zoom(by, at) { this.look(zoomed(own, by, at)); },
    whole() { this.look(whole(own)); },

    // look shows another interval: available data at once, then the server's.
    look(view) {
      own.view = view;
      this.soon();
      this.ask();
    },

    // step goes to the neighbouring event or cycle.
    async step(by) {
      if (!own.single) {
        own.cycle = Math.min(own.cycles - 1, Math.max(0, own.cycle + by));
        this.ask();
        return;
      }
      const next = await beside(own, by);
      if (!next) return;
      const half = (own.view.to - own.view.from) / 2;
      this.look({ from: Math.max(0, next.at - half), to: Math.min(own.limit, next.at + half) });
    },

    // ask sends one request at a time; the newest one is sent next.
    async ask() {
      own.want = { ...own.view, cycle: own.cycle };
      if (own.asking) return;
      own.asking = true;
      while (own.want) {
        const want = own.want;
        own.want = null;
        const had = own.data?.shapes?.length;
        own.data = (await stretch(own, want)) || own.data;
        if (own.kind === "stack" && own.data?.shapes.length !== had) this.fit();
        this.waiting = !own.data;
        this.soon();
      }
      own.asking = false;
    },

    soon() {
      if (own.due) return;
      own.due = requestAnimationFrame(() => {
        own.due = 0;
        if (own.data) this.draw();
      });
    },

    draw() {
      const began = performance.now();
      const pen = own.canvas.getContext("2d");
      own.colours ||= inks(this.$root, ["peat", "stone", "line", "fell", "rowan", "loch", "edge"]);
      pen.setTransform(own.dense, 0, 0, own.dense, 0, 0);
      pen.clearRect(0, 0, own.wide, own.tall);
      pen.font = `13px ${getComputedStyle(document.body).fontFamily}`;
      pen.lineJoin = "round";
      const windows = own.single ? [own.data] : own.data.shapes.map((s) => s.window);
      const area = { x: LEFT, y: HEAD, w: own.wide - LEFT - 8, h: own.tall - HEAD - FOOT, ...reach(windows) };
      if (own.kind !== "stack") kilovolts(pen, own.colours, area);
      drawings[own.kind](pen, own.colours, area, own);
      this.read = own.kind === "row" ? cycleWords(own) : cursors(pen, own.colours, area, own);
      this.$root.dataset.work = (performance.now() - began).toFixed(2);
      this.$root.dispatchEvent(new CustomEvent("drawn", { detail: performance.now() - began }));
    },
  };
};
