// A view is the stretch that is shown: seconds of the capture for one channel, milliseconds about
// each peak for a cycle.

// WIDEST bounds a cycle's stretch, in milliseconds either way.
const WIDEST = 200;

const bounds = (own) => ({
  low: own.single ? 0 : -WIDEST,
  high: own.single ? own.limit : WIDEST,
  least: own.single ? 5e-5 : 0.05,
  most: own.single ? own.limit : WIDEST,
});

// panned is the view moved by some time.
export const panned = (own, by) => {
  const { low, high } = bounds(own);
  const span = own.view.to - own.view.from;
  const from = Math.min(high - span, Math.max(low, own.view.from + by));
  return { from, to: from + span };
};

// zoomed is the view stretched by a factor about a place in it, from 0 to 1.
export const zoomed = (own, by, at) => {
  const { low, least, most } = bounds(own);
  const span = own.view.to - own.view.from;
  const next = Math.min(most, Math.max(least, span * by));
  const from = Math.max(low, own.view.from + at * (span - next));
  if (own.single && from + next > own.limit) return { from: Math.max(0, own.limit - next), to: own.limit };
  return { from, to: from + next };
};

// whole is the view of everything.
export const whole = (own) => (own.single ? { from: 0, to: own.limit } : { ...own.start });
