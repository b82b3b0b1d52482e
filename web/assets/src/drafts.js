// Drafts hold the input of forms in this browser for a day at most. Each has an id that is sent
// with the form. The server names the id in a cookie when it has recorded the form. Only then is
// the draft deleted.
const PREFIX = "draft:";
const DAY = 24 * 3600 * 1000;

export const read = (key) => {
  try {
    const draft = JSON.parse(localStorage.getItem(PREFIX + key));
    return draft && Date.now() - draft.at < DAY ? draft : null;
  } catch {
    return null;
  }
};

export const write = (key, id, typed) => {
  try {
    localStorage.setItem(PREFIX + key, JSON.stringify({ at: Date.now(), id, typed }));
  } catch {
    // No room, or storage is off: the form itself still holds the input.
  }
};

export const forget = (key) => localStorage.removeItem(PREFIX + key);

export const newId = () => crypto.getRandomValues(new Uint32Array(4)).join("-").slice(0, 40);

// confirm deletes the draft that the server has recorded, and drafts that are too old.
export const confirm = () => {
  const done = document.cookie.match(/(?:^|; )done=([a-z0-9-]+)/)?.[1];
  for (const name of Object.keys(localStorage).filter((name) => name.startsWith(PREFIX))) {
    const draft = read(name.slice(PREFIX.length));
    if (!draft || draft.id === done) localStorage.removeItem(name);
  }
  if (done) document.cookie = "done=; Max-Age=0; Path=/; SameSite=Strict";
};
