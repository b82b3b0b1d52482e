// get asks the server for a part of the capture; null where there is no answer.
export const get = async (own, what, query) => {
  try {
    const answer = await fetch(`${own.address}/${what}?${new URLSearchParams(query)}`);
    return answer.ok ? await answer.json() : null;
  } catch {
    return null; // it stays as it was
  }
};

// stretch is the data for a view: a little more on either side, in as many columns as are drawn.
export const stretch = (own, want) => {
  const columns = Math.max(50, Math.round(own.wide || 600));
  if (own.single) {
    const span = want.to - want.from;
    return get(own, "window", { channel: own.channel, from: Math.max(0, want.from - span / 2), to: Math.min(own.limit, want.to + span / 2), columns: 2 * columns });
  }
  return get(own, "shapes", { cycle: want.cycle, before: Math.max(0, -want.from), after: Math.max(0.05, want.to), columns: Math.min(1000, columns) });
};

// beside is the event before or after the middle of the view, or undefined.
export const beside = async (own, by) => {
  const middle = (own.view.from + own.view.to) / 2;
  const from = Math.max(0, by > 0 ? middle : middle - 0.5);
  const to = Math.min(own.limit, by > 0 ? middle + 0.5 : middle);
  if (to <= from) return undefined;
  const near = await get(own, "window", { channel: own.channel, from, to, columns: 1 });
  const events = (near?.events || []).filter((e) => Math.abs(e.at - middle) > 0.0005);
  return by > 0 ? events[0] : events[events.length - 1];
};
