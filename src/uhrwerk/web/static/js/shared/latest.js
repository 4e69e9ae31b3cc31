// One rule for overtaken answers: of all tasks with the same key, only the latest goes on.

/** The key of all that shows parts which are not there yet: one preview at a time. */
export const GHOSTS = "ghosts";
const OVERTAKEN = Symbol("overtaken");
const tasks = new Map(); // key -> the latest task

/**
 * Does `work(when)`, in which `when(promise)` is its value, or the end of the task where another with this key has begun
 * meanwhile. A task that fails while it is the latest is given to `failed`; one that was overtaken ends in silence.
 * @template T
 * @param {string} key
 * @param {(when: <V>(promise: Promise<V> | V) => Promise<V>) => Promise<T>} work
 * @param {(error: Error & {fields?: {path: string, reason: string}[], status?: number}) => void} [failed]
 * @returns {Promise<T | undefined>} what `work` returns; undefined where it was overtaken or failed
 */
export async function latest(key, work, failed) {
  const mine = {};
  tasks.set(key, mine);
  const current = () => tasks.get(key) === mine;
  try {
    return await work(async (promise) => {
      const value = await promise;
      if (!current()) throw OVERTAKEN;
      return value;
    });
  } catch (error) {
    if (!current()) return undefined;
    if (!failed) throw error;
    failed(error);
    return undefined;
  }
}

/** Whatever runs with a key goes on no longer. @param {string} key */
export const overtake = (key) => {
  tasks.delete(key);
};
