// Made from the scripts by docs/page_state.py; a test holds it to that.
//
// The state of a workspace, and what can be done with it: `this` in each module that adds to it. A field has the type of
// its first value, or the one that is stated beside it.

type Page = typeof import("../src/uhrwerk/web/static/js/shared/page_state.js").page;

interface Window {
  Alpine: any;
}

interface Workspace {
  $el: HTMLElement;
  $watch(name: string, then: (value: any) => void): void;

  // balance/mass_panel.js
  weighed: string[];
  weighedIn: string;
  weighedRows: [string, string][];
  weighedWords: string;
  isWeighed(...given: any[]): any;
  toggleWeighed(...given: any[]): any;
  weighAll(...given: any[]): any;
  weighIn(...given: any[]): any;
  readonly weighedOn: any;
  weigh(...given: any[]): any;
  unweigh(...given: any[]): any;
  placeMasses(...given: any[]): any;

  // balance/rotors.js
  rotors: any[];
  shaking: any;
  correcting: string;
  corrections: any[];
  correctionWords: string;
  correct(...given: any[]): any;
  stopCorrecting(...given: any[]): any;
  takeCorrection(...given: any[]): any;
  loadBalance(...given: any[]): any;
  readonly balanceOpen: any;
  readonly nothingTurns: any;
  rotorWords(...given: any[]): any;
  rotorClass(...given: any[]): any;
  askGrade(...given: any[]): any;
  gradeWords(...given: any[]): any;
  askShaking(...given: any[]): any;
  askFor(...given: any[]): any;

  // card/add_here.js
  growAt: string;
  sprouts: Api.Sprout[];
  sprout: Api.Sprout | null;
  growValues: Record<string, string>;
  growLooking: boolean;
  growSeeing: boolean;
  growError: string;
  growGap: string;
  growAgainst: string;
  growCycle: boolean;
  readonly growNeighbours: any;
  busyPulling: boolean;
  near: string;
  ghosts: boolean;
  readonly growDatums: any;
  growFrom(...given: any[]): any;
  readonly growHint: any;
  readonly whyNothingFits: any;
  chooseSprout(...given: any[]): any;
  askSprout(...given: any[]): any;
  showSprout(...given: any[]): any;
  pullable(...given: any[]): any;
  readonly pulls: any;
  readonly roundOffers: any;
  roundTo(...given: any[]): any;
  pullToGap(...given: any[]): any;
  showGhosts(...given: any[]): any;
  dropGhosts(...given: any[]): any;
  dropSprout(...given: any[]): any;
  takeSprout(...given: any[]): any;
  readonly suggested: any;
  driveSuggested(...given: any[]): any;

  // card/build_steps.js
  stepAt: string;
  stepListOpen: boolean;
  readonly buildSteps: any;
  readonly openStep: any;
  readonly hasSteps: any;
  readonly stepKinds: any;
  stepWords(...given: any[]): any;
  openOrClose(...given: any[]): any;
  showStep(...given: any[]): any;
  earlierSteps(...given: any[]): any;
  cornersOf(...given: any[]): any;
  originalNumbers(...given: any[]): any;
  numbersOf(...given: any[]): any;
  isOfPieces(...given: any[]): any;
  facesOf(...given: any[]): any;
  readonly moreOfStep: any;
  addToStep(...given: any[]): any;
  toggleStepList(...given: any[]): any;
  switchStep(...given: any[]): any;
  renameStep(...given: any[]): any;
  moveStep(...given: any[]): any;
  removeStep(...given: any[]): any;
  addStep(...given: any[]): any;
  beginStep(...given: any[]): any;
  readonly canRepeatStep: any;
  repeatStep(...given: any[]): any;

  // card/card.js
  cutterDiameter: string;
  readonly foundOnIt: any;
  readonly isBeside: any;
  readonly isCam: any;
  saveCutter(...given: any[]): any;
  readonly card: any;
  readonly cardFields: any;
  readonly cardMaps: any;
  readonly canRemove: any;
  readonly canBeFrame: any;
  setField(...given: any[]): any;
  setValue(...given: any[]): any;
  fieldCommand(...given: any[]): any;
  isChosenMember(...given: any[]): any;
  chooseMember(...given: any[]): any;
  setAgain(...given: any[]): any;
  leaveField(...given: any[]): any;
  revertField(...given: any[]): any;
  escapeField(...given: any[]): any;
  measureAgain(...given: any[]): any;
  readonly offerWords: any;
  takeOffer(...given: any[]): any;
  rename(...given: any[]): any;
  addTo(...given: any[]): any;
  removePath(...given: any[]): any;
  removeSelected(...given: any[]): any;
  makeFrame(...given: any[]): any;
  readonly canReverse: any;
  reverseDrive(...given: any[]): any;

  // card/dial.js
  turning: string;
  canDial(...given: any[]): any;
  dialName(...given: any[]): any;
  startDial(...given: any[]): any;
  grabDial(...given: any[]): any;
  moveDial(...given: any[]): any;
  keyDial(...given: any[]): any;
  turnTo(...given: any[]): any;
  showGlance(...given: any[]): any;
  letGoDial(...given: any[]): any;
  dropDial(...given: any[]): any;

  // card/material_choice.js
  knownMaterials: Api.ListedMaterial[];
  loadMaterials(...given: any[]): any;
  readonly isMade: any;
  readonly materialChoices: any;
  chooseMaterial(...given: any[]): any;
  openMaterial(...given: any[]): any;
  readonly shownColour: any;
  giveColour(...given: any[]): any;
  readonly materialName: any;
  chooseColour(...given: any[]): any;

  // card/number_search.js
  searchAbout: string;
  searchAsks: any;
  searchError: string;
  found: any;
  readonly canSearch: any;
  readonly searchOpen: any;
  readonly searchRuns: any;
  readonly searchPaused: any;
  readonly searchShown: any;
  readonly searchHasRounded: any;
  readonly searchHasBest: any;
  readonly asksValue: any;
  openSearch(...given: any[]): any;
  closeSearch(...given: any[]): any;
  beginSearch(...given: any[]): any;
  followSearch(...given: any[]): any;
  tellSearch(...given: any[]): any;
  holdSearch(...given: any[]): any;
  stopSearch(...given: any[]): any;
  readonly searchSteps: any;
  searchDots(...given: any[]): any;
  readonly searchWay: any;
  readonly searchHeld: any;
  readonly searchLost: any;
  readonly searchBest: any;
  askAgain(...given: any[]): any;
  searchStep(...given: any[]): any;
  showTried(...given: any[]): any;
  takeStep(...given: any[]): any;
  takeRounded(...given: any[]): any;
  takeBest(...given: any[]): any;

  // card/pasting.js
  pasteTable(...given: any[]): any;
  pasteIntoItem(...given: any[]): any;
  blankOf(...given: any[]): any;
  pasteIntoElement(...given: any[]): any;

  // card/remedies.js
  peeking: string;
  offers: any[];
  movedBy: any[];
  mendWords: string;
  mendBusy: boolean;
  readonly mendable: any;
  followMending(...given: any[]): any;
  lookForRemedies(...given: any[]): any;
  remedyName(...given: any[]): any;
  takeRemedy(...given: any[]): any;
  peekAt(...given: any[]): any;
  peekAway(...given: any[]): any;
  forgetPeek(...given: any[]): any;
  offerClass(...given: any[]): any;

  // card/requirement_menu.js
  readonly askable: any;
  askOfIt(...given: any[]): any;

  // catalogue/catalogue.js
  elements: Api.Entry[];
  search: string;
  element: any;
  rows: any[];
  partName: string;
  material: string;
  derived: any[];
  start: any;
  openCatalogue(...given: any[]): any;
  readonly catalogueGroups: any;
  chooseElement(...given: any[]): any;
  moreOf(...given: any[]): any;
  lessOf(...given: any[]): any;
  readonly elementMaps: any;
  editElement(...given: any[]): any;
  elementData(...given: any[]): any;
  addCommand(...given: any[]): any;
  showElement(...given: any[]): any;
  besideAll(...given: any[]): any;
  besideNothing(...given: any[]): any;
  refuseElement(...given: any[]): any;
  addElement(...given: any[]): any;
  leaveElement(...given: any[]): any;

  // catalogue/importing.js
  imported: any;
  units: any;
  stopImport: AbortController | null;
  openImport(...given: any[]): any;
  readonly importRuns: any;
  readonly importTitle: any;
  readonly isImported: any;
  readonly partView: any;
  importChosen(...given: any[]): any;
  dropFile(...given: any[]): any;
  importFile(...given: any[]): any;
  importIn(...given: any[]): any;
  closeImport(...given: any[]): any;

  // cycle/curve_choices.js
  curvesShown: Api.CurveShown[];
  curvesBeside: Api.CurveShown[];
  chartSeries: string;
  chartOver: string;
  chartBeside: string;
  chartOff: any[];
  pinned: number | null;
  readonly charts: any;
  readonly pageClass: any;
  readonly seriesChoices: any;
  readonly besideChoices: any;
  readonly chartTable: any;
  loadCurves(...given: any[]): any;
  compareCurves(...given: any[]): any;
  readonly legend: any;
  chartHidden(...given: any[]): any;
  readOff(...given: any[]): any;
  toggleCurve(...given: any[]): any;
  setChart(...given: any[]): any;
  pinHere(...given: any[]): any;
  readonly pinWords: any;
  redrawChart(...given: any[]): any;
  placeChart(...given: any[]): any;
  showPaths(...given: any[]): any;
  saveChart(...given: any[]): any;
  readonly followable: any;
  followJoint(...given: any[]): any;
  readonly isCurve: any;
  askLimits(...given: any[]): any;
  followPoint(...given: any[]): any;
  addCurve(...given: any[]): any;

  // cycle/playback.js
  part: number;
  playing: boolean;
  playWaits: boolean;
  reverse: boolean;
  pace: string;
  series: string;
  handPosed: boolean;
  exportAt: string;
  readonly momentAsked: any;
  readonly momentSeconds: any;
  readonly moment: any;
  seek(...given: any[]): any;
  stepFrames(...given: any[]): any;
  home(...given: any[]): any;
  showMoment(...given: any[]): any;
  poseOf(...given: any[]): any;
  placeTag(...given: any[]): any;
  redrawScheme(...given: any[]): any;
  redrawLanes(...given: any[]): any;
  readonly playReason: any;
  playWhenThere(...given: any[]): any;
  togglePlay(...given: any[]): any;
  showSeries(...given: any[]): any;
  toggleReverse(...given: any[]): any;

  // cycle/programme_editor.js
  segmentAt: string;
  shiftRest: boolean;
  timingError: string;
  readonly programme: any;
  readonly segmentChosen: any;
  readonly segmentFields: any;
  readonly hand: any;
  chooseSegment(...given: any[]): any;
  chooseSegmentById(...given: any[]): any;
  askTiming(...given: any[]): any;
  drawCorner(...given: any[]): any;
  keyCorner(...given: any[]): any;
  sendKeyed(...given: any[]): any;
  focusCorner(...given: any[]): any;
  changeSegment(...given: any[]): any;

  // drawing/drawing.js
  tool: string;
  chain: any[];
  cursor: any;
  arcNext: boolean;
  typedSizes: any[];
  typedNow: string;
  drawnFresh: boolean;
  drawnLines: any;
  readonly canDraw: any;
  readonly outlinePath: any;
  readonly toolChoices: any;
  readonly penAt: any;
  readonly drawsChain: any;
  readonly canCloseChain: any;
  readonly arcReady: any;
  readonly askedSize: any;
  readonly drawingWords: any;
  readonly sizeWords: any;
  startDrawing(...given: any[]): any;
  stopDrawing(...given: any[]): any;
  isPristine(...given: any[]): any;
  worldWay(...given: any[]): any;
  surroundings(...given: any[]): any;
  onDrawn(...given: any[]): any;
  planeMap(...given: any[]): any;
  toScreen(...given: any[]): any;
  fromScreen(...given: any[]): any;
  readonly nearDrawn: any;
  placeDrawing(...given: any[]): any;
  nowDrawn(...given: any[]): any;
  pieceOf(...given: any[]): any;
  lastWay(...given: any[]): any;
  nextBulge(...given: any[]): any;
  movePen(...given: any[]): any;
  dropPen(...given: any[]): any;
  putPoint(...given: any[]): any;
  closeChain(...given: any[]): any;
  finishShape(...given: any[]): any;
  keepLoop(...given: any[]): any;
  outlineNow(...given: any[]): any;
  dropPoint(...given: any[]): any;
  toggleArc(...given: any[]): any;
  typeSize(...given: any[]): any;
  finishTyped(...given: any[]): any;
  drawingKey(...given: any[]): any;
  wheelOnSheet(...given: any[]): any;

  // joining/joining.js
  joinA: string;
  joinB: string;
  candidates: Api.JoinOption[];
  chosen: Api.JoinOption | null;
  joinValues: any;
  joinFlip: boolean;
  previewWords: string;
  trying: boolean;
  measures: Api.Measure[];
  keepAs: string;
  allCandidates: boolean;
  seatPart: string;
  seatGap: string;
  startJoin(...given: any[]): any;
  startMeasure(...given: any[]): any;
  pickTwo(...given: any[]): any;
  clearJoin(...given: any[]): any;
  startJoinList(...given: any[]): any;
  readonly picking: any;
  readonly datumChoices: any;
  readonly markedEnds: any;
  marks(...given: any[]): any;
  readonly offered: any;
  findCandidates(...given: any[]): any;
  candidateClass(...given: any[]): any;
  readonly chosenFields: any;
  readonly asksPlane: any;
  readonly planeChoices: any;
  readonly canFlip: any;
  readonly flipWords: any;
  choose(...given: any[]): any;
  ask(...given: any[]): any;
  joinCommand(...given: any[]): any;
  preview(...given: any[]): any;
  showHandle(...given: any[]): any;
  accept(...given: any[]): any;
  pickDatum(...given: any[]): any;
  keepMeasure(...given: any[]): any;
  readonly canSeat: any;
  readonly seatChoices: any;
  seat(...given: any[]): any;

  // joining/moving.js
  moveValues: any;
  moveWords: string;
  moveError: string;
  moveCommand: any;
  bringing: boolean;
  moveMiddle: [number, number, number];
  readonly canMove: any;
  readonly moveFields: any;
  startMove(...given: any[]): any;
  freshMove(...given: any[]): any;
  pulledGrip(...given: any[]): any;
  askMove(...given: any[]): any;
  turnBy(...given: any[]): any;
  startBringing(...given: any[]): any;
  bringTo(...given: any[]): any;
  tryMove(...given: any[]): any;
  lookOn(...given: any[]): any;
  previewMove(...given: any[]): any;
  showGrips(...given: any[]): any;
  applyMove(...given: any[]): any;

  // revisions/baseline.js
  was: any;
  outlined: number;
  variants: Api.VariantSummary[];
  naming: string;
  readonly hasBaseline: any;
  readonly changedWords: any;
  readonly outlinable: any;
  readonly outlineWords: any;
  readonly pinWordsOf: any;
  readonly baselineMass: any;
  wasField(...given: any[]): any;
  wasVerdict(...given: any[]): any;
  wasMark(...given: any[]): any;
  loadBaseline(...given: any[]): any;
  pin(...given: any[]): any;
  pinMark(...given: any[]): any;
  toggleOutline(...given: any[]): any;
  outline(...given: any[]): any;
  loadVariants(...given: any[]): any;
  variantClass(...given: any[]): any;
  branchHere(...given: any[]): any;
  goToVariant(...given: any[]): any;
  onLine(...given: any[]): any;
  dropVariant(...given: any[]): any;
  callIt(...given: any[]): any;

  // revisions/revision_list.js
  against: number;
  comparedBase: number;
  comparison: any;
  readonly comparisonWords: any;
  revisionWords(...given: any[]): any;
  verdictClass(...given: any[]): any;
  compareWith(...given: any[]): any;
  compareBase(...given: any[]): any;
  baseName(...given: any[]): any;
  baseValue(...given: any[]): any;
  goBackTo(...given: any[]): any;

  // scheme/item_list.js
  step: string;
  itemSearch: string;
  unfolded: any[];
  readonly steps: any;
  railClass(...given: any[]): any;
  go(...given: any[]): any;
  readonly allItems: any;
  readonly itemsAreMany: any;
  readonly itemSections: any;
  itemClass(...given: any[]): any;
  pressItem(...given: any[]): any;
  readonly schemeWords: any;

  // scheme/repeats_and_groups.js
  openRepeat(...given: any[]): any;
  startRepeat(...given: any[]): any;
  startGroup(...given: any[]): any;
  useAgain(...given: any[]): any;
  readonly isGroup: any;
  isMember(...given: any[]): any;
  toggleMember(...given: any[]): any;
  readonly repeatDatums: any;
  readonly repeatDatumLabel: any;
  addRepeat(...given: any[]): any;
  addGroup(...given: any[]): any;

  // shared/dimension_drawing.js
  hasDrawing: boolean;
  showDrawing(...given: any[]): any;
  redrawDrawing(...given: any[]): any;
  showCardDrawing(...given: any[]): any;
  markDimension(...given: any[]): any;

  // shared/forms.js
  choices: Api.Choices;
  values: Record<string, string>;
  typed: any;
  kindSearch: string;
  kindsFound(...given: any[]): any;
  pictureOf(...given: any[]): any;
  readonly formTitle: any;
  loadChoices(...given: any[]): any;
  isChosen(...given: any[]): any;
  choicesOf(...given: any[]): any;
  rowClass(...given: any[]): any;
  typing(...given: any[]): any;
  fieldText(...given: any[]): any;
  fieldError(...given: any[]): any;
  readonly formFields: any;
  readonly asksDatum: any;
  takeDatum(...given: any[]): any;
  readonly formAbout: any;
  chooseKind(...given: any[]): any;
  fill(...given: any[]): any;
  wayOf(...given: any[]): any;
  startAsItStands(...given: any[]): any;
  usualDriver(...given: any[]): any;
  toItsLimits(...given: any[]): any;
  filled(...given: any[]): any;
  submitForm(...given: any[]): any;
  addDriver(...given: any[]): any;
  addRequirement(...given: any[]): any;

  // shared/keyboard.js
  key(...given: any[]): any;
  plainKeys(...given: any[]): any;
  editKey(...given: any[]): any;
  enterKey(...given: any[]): any;

  // stage/copy_paste.js
  carried: any;
  shelf: any[];
  dragged: any;
  readonly meantParts: any;
  copyParts(...given: any[]): any;
  cutParts(...given: any[]): any;
  pasteParts(...given: any[]): any;
  openShelf(...given: any[]): any;
  placeMechanism(...given: any[]): any;
  include(...given: any[]): any;
  takeElement(...given: any[]): any;
  dropElement(...given: any[]): any;

  // stage/dragging.js
  held: string;
  stopAtContact: boolean;
  grabAt(...given: any[]): any;
  grab(...given: any[]): any;
  say(...given: any[]): any;
  drag(...given: any[]): any;
  send(...given: any[]): any;
  drop(...given: any[]): any;
  heard(...given: any[]): any;
  keep(...given: any[]): any;
  readonly freedoms: any;
  playFreedom(...given: any[]): any;

  // stage/outline_editor.js
  handles: any[];
  readonly handStep: any;
  readonly handUnit: any;
  placeHandles(...given: any[]): any;
  onPlane(...given: any[]): any;
  handValues(...given: any[]): any;
  handWords(...given: any[]): any;
  handCommand(...given: any[]): any;
  takeHandle(...given: any[]): any;
  dragHandle(...given: any[]): any;
  dropHandle(...given: any[]): any;
  handleKey(...given: any[]): any;
  showDrawn(...given: any[]): any;
  takeDrawn(...given: any[]): any;

  // stage/pointing.js
  tag: any;
  hint: string;
  point(...given: any[]): any;
  readonly asksForDatum: any;
  meant(...given: any[]): any;
  sayPointed(...given: any[]): any;
  stepThrough(...given: any[]): any;
  pick(...given: any[]): any;

  // stage/stepping.js
  stageKey(...given: any[]): any;
  stepPart(...given: any[]): any;
  stepDatum(...given: any[]): any;
  takeMarked(...given: any[]): any;

  // stage/visibility.js
  hidden: string[];
  clear: string[];
  sectionAxis: string;
  sectionAt: number;
  sectionReach: any[];
  sectionError: string;
  readonly partSelected: any;
  readonly isHidden: any;
  readonly isClear: any;
  readonly isLeftOut: any;
  readonly isCopy: any;
  toggled(...given: any[]): any;
  hide(...given: any[]): any;
  onlyThis(...given: any[]): any;
  seeThrough(...given: any[]): any;
  showAll(...given: any[]): any;
  readonly somethingHidden: any;
  see(...given: any[]): any;
  chooseSection(...given: any[]): any;
  readonly sectionLow: any;
  readonly sectionHigh: any;
  readonly sectionStep: any;
  readonly sectionText: any;
  typeSection(...given: any[]): any;
  leaveOut(...given: any[]): any;
  look(...given: any[]): any;
  lookStraight(...given: any[]): any;

  // strip/verdicts.js
  changed: string;
  judged: number | null;
  readonly former: any;
  readonly summary: any;
  readonly judgement: any;
  readonly failingWords: any;
  isOpenTile(...given: any[]): any;
  sign(...given: any[]): any;
  tileClass(...given: any[]): any;
  tileWords(...given: any[]): any;
  compare(...given: any[]): any;
  openVerdict(...given: any[]): any;
  pressTile(...given: any[]): any;
  nextFailing(...given: any[]): any;
  verdictShown(...given: any[]): any;
  readonly worst: any;
  readonly layersLink: any;
  showFault(...given: any[]): any;
  faultAtMoment(...given: any[]): any;

  // workspace/draft.js
  draft: {base: number, commands: any[], words: string} | null;
  discarded: {base: number, commands: any[], words: string} | null;
  readonly draftWords: any;
  readonly undoTitle: any;
  readonly canRestoreDraft: any;
  readonly discardedWords: any;
  startDraft(...given: any[]): any;
  toggleDraft(...given: any[]): any;
  addToDraft(...given: any[]): any;
  lookAtDraft(...given: any[]): any;
  shortenDraft(...given: any[]): any;
  applyDraft(...given: any[]): any;
  discardDraft(...given: any[]): any;
  restoreDraft(...given: any[]): any;
  closeDraft(...given: any[]): any;
  reopenDraft(...given: any[]): any;

  // workspace/exporting.js
  exportName: string;
  exportSeconds: number;
  readonly exportWords: any;
  readonly exportTime: any;
  exportFile(...given: any[]): any;
  stopExport(...given: any[]): any;

  // workspace/regions.js
  readonly skips: any;
  closeMenu(...given: any[]): any;
  enterRegion(...given: any[]): any;
  keepFocus(...given: any[]): any;

  // workspace/workspace.js
  state: Api.State;
  view: Api.View;
  loaded: boolean;
  revisions: Api.RevisionSummary[];
  busy: boolean;
  busyWords: string;
  busyPart: number;
  stopped: boolean;
  notice: string;
  once: (() => void) | null;
  conflictWith: number;
  heardRevision(...given: any[]): any;
  loadCurrent(...given: any[]): any;
  loadRevisions(...given: any[]): any;
  evaluate(...given: any[]): any;
  evaluated(...given: any[]): any;
  takeView(...given: any[]): any;
  showScene(...given: any[]): any;
  showEvaluated(...given: any[]): any;
  selectFromAddress(...given: any[]): any;
  showChanged(...given: any[]): any;
  fillLanes(...given: any[]): any;
  sharedSpace(...given: any[]): any;
  command(...given: any[]): any;
  attempt(...given: any[]): any;
  undo(...given: any[]): any;
  redo(...given: any[]): any;
  otherMode(...given: any[]): any;
  walk(...given: any[]): any;
  stopWork(...given: any[]): any;
  explain(...given: any[]): any;
  closeNotice(...given: any[]): any;
  selected: string;
  panel: string;
  errors: Record<string, string>;
  kept: any;
  form: any;
  formError: string;
  select(...given: any[]): any;
  paint(...given: any[]): any;
  open(...given: any[]): any;
  askMore(...given: any[]): any;
  leave(...given: any[]): any;
  submit(...given: any[]): any;
  readonly bodyChoices: any;
  addParameter(...given: any[]): any;
  fit(...given: any[]): any;
}
