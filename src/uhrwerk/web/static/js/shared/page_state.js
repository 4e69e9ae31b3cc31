// What the modules of the workspace share and what is not reactive: the stage, the current view, its block of poses,
// and what lies under the pointer.
const mechanism = document.body.dataset.mechanism;

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
  api: `/api/mechanisms/${mechanism}`,
  root: null,
  stage: null,
  poses: null,
  shown: 0, // the revision whose results are shown; below zero while a number is turned
  view: EMPTY,
  pointed: [],
  step: 0, // which of several that lie over each other
};

export const tick = (work) => window.Alpine.nextTick(work);

// the reason of a refusal, in the words of its first field
export const reason = (error) => error.fields?.[0]?.reason || error.message;
