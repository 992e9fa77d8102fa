/** Whether the server and its database can be heard: one value for the page, kept outside React because every change asks it. */
type Listener = () => void;

let said: string | null = null;
const listeners = new Set<Listener>();

export const line = {
  /** Why nothing can be changed now; null = all is well. */
  down: () => said,
  set(words: string | null) {
    if (words === said) return;
    said = words;
    for (const listener of listeners) listener();
  },
  subscribe(listener: Listener) {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
};
