// What the modules of the workspace share and what is not reactive: the stage, the current view, its block of poses,
// and what lies under the pointer.
const mechanism = document.body.dataset.mechanism;

/** @type {any} A view with nothing in it. */
export const EMPTY = {
  verdicts: [],
  placed: [],
  springs: [],
  loads: [],
  belts: [],
  problems: [],
  masses: [],
  groups: [],
  joints: [],
  relations: [],
  pairs: [],
  repeats: [],
  driveable: [],
  remarks: [],
  units: { length: "mm" },
  drivers: [],
  curves: [],
  parameters: [],
  requirements: [],
  lanes: [],
  materials: [],
  parts: [],
  cards: {},
  mobility: null,
  moving: false,
  duration: 0,
  proved: true,
  reached: 1,
};

export const page = {
  mechanism,
  api: /** @type {`/api/mechanisms/${string}`} */ (`/api/mechanisms/${mechanism}`),
  /** @type {HTMLElement} */
  root: null,
  /** @type {import("../stage/stage.js").Stage} */
  stage: null,
  poses: null,
  draft: 0, // the number, below zero, of the draft that is shown; 0: none
  shown: 0, // the revision whose results are shown; below zero while a number is turned
  /** @type {Api.View} */
  view: EMPTY,
  /** @type {any[]} */
  pointed: [],
  pointedAt: [0, 0], // where the pointer was then
  step: 0, // which of several that lie over each other
};

/**
 * A call about the document that is shown, which is that of a draft where there is one.
 * @template {string} C
 * @param {C} call
 * @returns {`/api/mechanisms/${string}/${C}`}
 */
export const about = (call) => /** @type {any} */ (`${page.api}/${call}${page.draft ? `?draft=${page.draft}` : ""}`);

// the revision, or the draft on it, whose poses and solids are shown
export const shownRevision = (state) => page.draft || state.revision;

/**
 * An element of the workspace, with whatever was put on it.
 * @param {string} selector
 * @returns {any}
 */
export const within = (selector) => page.root.querySelector(selector);

export const tick = (work) => window.Alpine.nextTick(work);

// the reason of a refusal, in the words of its first field
export const reason = (error) => error.fields?.[0]?.reason || error.message;
