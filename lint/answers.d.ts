// Made from the API's own description by docs/answers.py; a test holds it to that.

declare namespace Api {
  type AngleBetween = { kind: "angle"; name: string; a: Api.At_Output; b: Api.At_Output; turn_from: string; turn_to: string; slide_from: string; slide_to: string; angle: string; about: Api.At_Output | null; };
  type AngleCurve = { kind: "angle"; name: string; a: Api.At_Output; b: Api.At_Output; measure: "between_the_axes" | "turn_about_the_axis"; };
  type At_Output = Record<string, any>;
  type Balance = { rotors: Array<Api.RotorShown>; shaking: Api.ShakingShown | null; grades: Array<number>; };
  type BaselineRequest = { number: null | number; };
  type BeltShown = { id: string; way: Array<Array<number>>; axis: Array<number>; width: number; thick: number; chain: boolean; };
  type BevelPair = { kind: "bevel"; name: string; a: Api.At_Output; b: Api.At_Output; teeth_a: number; teeth_b: number; side: "same" | "opposite"; };
  type Bore = { x: string; y: string; diameter: string; };
  type BuildStep = { kind: string; name: string; off: boolean; note: string; };
  type CamPair = { kind: "cam"; name: string; a: Api.At_Output; b: Api.At_Output; roller_radius: string; };
  type CamShown = { placed: string; pair: string; outline: Array<Array<number>>; follower: string; local: Array<number>; radius: number; guide: string; };
  type Card = { title: string; about: string; fields: Array<Api.FieldShown>; results: Array<Array<string>>; name: string; start: Array<Api.FieldShown>; found: Array<Api.FieldShown>; placed: string; maps: Record<string, Record<string, string>>; steps: Array<Api.StepShown>; part: string; material: string; colour: string; stale: string; freedom: string; reverse: Record<string, string>; more: Record<string, Api.JsonValue>; offer: Record<string, string>; places: Array<Api.FieldShown>; ends: Array<Api.JointEndShown>; };
  type ChangeRequest = { revision: number; command: Record<string, Api.JsonValue>; };
  type ChangeShown = { path: string; name: string; before: string; after: string; };
  type ChangedNumber = { path: string; formula: string; };
  type ChangedVerdict = { name: string; words: string; breaks: boolean; };
  type Choice = { kind: string; title: string; about: string; fields: Array<Api.FieldShown>; };
  type Choices = { requirements: Array<Api.Choice>; drivers: Array<Api.Choice>; curves: Array<Api.Choice>; steps: Array<Api.Choice>; };
  type Clearance = { kind: "clearance"; name: string; a: Api.Of; b: Api.Of; at_least: string; };
  type CommandAnswer = { command: Record<string, Api.JsonValue>; };
  type Comparison = { changes: Array<Api.ChangeShown>; verdicts: Array<Api.VerdictsShown>; mass: string; };
  type Concentric = { kind: "concentric"; name: string; a: Api.At_Output; b: Api.At_Output; turn_from: string; turn_to: string; slide_from: string; slide_to: string; side: "same" | "opposite"; };
  type Corner = { x: string; y: string; };
  type Corrected = { correction: Api.CorrectionShown | null; more: boolean; words: string; };
  type CorrectionShown = { id: string; words: Array<string>; after: string; breaks: boolean; effects: Array<Api.ChangedVerdict>; command: Record<string, any>; };
  type Curve = { kind: string; name: string; };
  type CurveNamed = { id: string; name: string; note: string; };
  type CurveShown = { id: string; name: string; why: string; times: Array<number>; whole: boolean; series: Array<Api.SeriesShown>; path: Array<Array<number>>; };
  type Cycle = { duration: string; frames: string; weight: "not_counted" | "along_x" | "against_x" | "along_y" | "against_y" | "along_z" | "against_z"; };
  type Cylindrical = { kind: "cylindrical"; name: string; a: Api.At_Output; b: Api.At_Output; offset: string; flip: boolean; turn_from: string; turn_to: string; slide_from: string; slide_to: string; };
  type DatumShown = { id: string; name: string; group: string; kind: string; words: string; origin: Array<number>; z: Array<number>; x: Array<number>; radius: number; side: string; length: number; low: number; };
  type DimensionLine = { path: string; of: Array<Array<number>>; line: Array<Array<number>>; round: boolean; };
  type Disc = { diameter: string; x: string; y: string; };
  type Distance = { kind: "distance"; name: string; a: Api.At_Output; b: Api.At_Output; turn_from: string; turn_to: string; slide_from: string; slide_to: string; side: "same" | "opposite"; distance: string; };
  type DistanceCurve = { kind: "distance"; name: string; a: Api.At_Output; b: Api.At_Output; measure: "straight" | "along_the_axis" | "across_the_axis"; };
  type Document = { format: 3; name: string; note: string; units: Api.Units; parameters: Record<string, Api.Parameter>; materials: Record<string, any>; parts: Record<string, any>; placed: Record<string, any>; frame: null | string; groups: Record<string, any>; joints: Record<string, any>; relations: Record<string, any>; pairs: Record<string, any>; repeats: Record<string, any>; drivers: Record<string, any>; cycle: Api.Cycle; curves: Record<string, any>; requirements: Record<string, any>; drawings: Record<string, any>; };
  type Draft = { commands: Array<Record<string, Api.JsonValue>>; revision: number; view: Api.View; };
  type DraftRequest = { commands: Array<Record<string, Api.JsonValue>>; more: Array<Record<string, Api.JsonValue>>; };
  type Drawing = { name: string; part: null | string; group: string; exploded: boolean; projection: "first" | "third"; section: boolean; hole_table: boolean; note: string; texture: "" | "0.1" | "0.2" | "0.4" | "0.8" | "1.6" | "3.2" | "6.3" | "12.5" | "25"; sizes: Record<string, any>; own_sizes: Record<string, any>; face_textures: Record<string, any>; };
  type DrawingChoices = { drawings: Array<[string, string]>; parts: Array<[string, string]>; groups: Array<[string, string]>; };
  type DrawingSheet = { id: string; stated: Api.Drawing; svg: string; width: number; height: number; scale: number; sizes: Array<Api.SizeOfSheet>; unclear: Array<Api.UnclearSize>; spots: Array<Api.SpotOfSheet>; faces: Array<Api.FaceOfSheet>; };
  type Driveable = { id: string; name: string; turning: boolean; sliding: boolean; driver: Record<string, string> | null; far: string; };
  type Driver = { kind: string; name: string; joint: string; };
  type DriverShown = { id: string; name: string; joint: string; kind: string; note: string; };
  type Element = { kind: string; };
  type ElementRequest = { element: Record<string, Api.JsonValue>; mechanism: null | string; };
  type EndShown = { placed: string; at: Array<number>; };
  type Entry = { kind: string; title: string; about: string; group: string; fields: Array<Api.FieldShown>; maps: Record<string, Record<string, string>>; };
  type Error = { error: string; fields: Array<Api.Field>; current: null | number; };
  type FaceOfSheet = { view: string; datum: string; label: string; };
  type FaceTexture = { view: "front" | "above" | "beside"; face: string; roughness: "0.1" | "0.2" | "0.4" | "0.8" | "1.6" | "3.2" | "6.3" | "12.5" | "25"; removal: "any" | "required" | "prohibited"; right: string; up: string; };
  type Field = { path: string; reason: string; };
  type FieldShown = { path: string; label: string; text: boolean | string; value: string; kind: string; unit: string; about: string; options: Array<string>; names: Record<string, string>; of: string; collection: string; };
  type FitLimits = { kind: "fit"; name: string; bore: Api.At_Output; bore_limits: string; pin: Api.At_Output; pin_limits: string; at_least: string; at_most: string; };
  type Flush = { kind: "flush"; name: string; a: Api.At_Output; b: Api.At_Output; turn_from: string; turn_to: string; slide_from: string; slide_to: string; side: "same" | "opposite"; offset: string; };
  type Folder = { folder: string; };
  type ForcePair = { kind: "force"; name: string; a: Api.At_Output; b: Api.At_Output; force: string; along: "axis_of_the_first" | "line_between_both"; acts: "always" | "against_the_motion" | "with_the_motion"; };
  type FoundInLayers = { kind: string; words: string; first: number; last: number; parts: Array<string>; place: [number, number, number]; fails: boolean; };
  type FrameValues = { unit: string; values: any; };
  type GapCurve = { kind: "gap"; name: string; a: Api.Of; b: Api.Of; };
  type GearShown = { placed: string; pair: string; radius: number; belt: string; };
  type GhostPose = { id: string; name: string; element: string; solid: string; bodies: Array<string>; pose: Array<number>; near: string; low: Array<number>; high: Array<number>; };
  type Group = { name: string; placed: Array<string>; };
  type GroupShown = { id: string; name: string; placed: Array<string>; };
  type GrowthBody = { at: Api.At_Input; id: string; values: Record<string, string>; };
  type GrowthRequest = { path: string; label: string; text: string; };
  type HTTPValidationError = { detail: Array<Api.ValidationError>; };
  type HandleShown = { name: string; at: Array<number>; moves: Array<Api.MoveShown>; };
  type Held = { kind: "held"; name: string; a: Api.At_Output; b: Api.At_Output; offset: string; flip: boolean; turn: string; x: string; y: string; turn_x: string; turn_y: string; turn_z: string; };
  type HelicalPair = { kind: "helical"; name: string; a: Api.At_Output; b: Api.At_Output; teeth_a: number; teeth_b: number; helix_a: string; helix_b: string; };
  type ImportResult = { command: Record<string, any>; selected: string; said: string; };
  type IncludeRequest = { revision: number; mechanism: string; document: Record<string, Api.JsonValue> | null; };
  type Included = { command: Record<string, any>; selected: string; };
  type JoinOption = { kind: string; what: "joint" | "relation" | "pair"; words: string; free: string; fields: Array<string>; command: Record<string, Api.JsonValue>; starts: Record<string, string>; };
  type JoinPreview = { poses: Record<string, Array<number>>; moved: Record<string, Api.MovedPart>; freedoms: Array<string>; redundant: number; remarks: Array<string>; fresh: Array<string>; };
  type Joint = { kind: string; name: string; a: Api.At_Output; b: Api.At_Output; offset: string; flip: boolean; };
  type JointEndShown = { placed: string; datum: Api.DatumShown; };
  type JointPair = { kind: string; name: string; a: Api.At_Output | string; b: Api.At_Output | string; };
  type JsonValue = any;
  type KnownValue = { unit: string; value: any; };
  type Lane = { kind: string; id: string; name: string; points: Array<Array<number>>; unit: string; path: string; joint: string; rates: Array<number>; rateUnit: string; accelerations: Array<number>; accelerationUnit: string; ratio: string; holds: boolean | null; time: null | number; limit: number; segments: Array<Api.SegmentShown>; begins: number; steady: boolean; band: Array<number>; };
  type LeafSpringPair = { kind: "leaf_spring"; name: string; a: Api.At_Output; b: Api.At_Output; along: string; rest: string; width: string; thickness: string; elastic_modulus: string; };
  type Leant = { face: string; };
  type LinkShown = { index: number; name: string; parts: Array<string>; nodes: Array<string>; };
  type ListedItem = { id: string; name: string; };
  type ListedJoint = { id: string; name: string; kind: string; a: string; b: string; };
  type ListedKind = { id: string; name: string; kind: string; };
  type ListedMaterial = { id: string; own: boolean; material: Api.Material_Output; shown: Record<string, string>; };
  type ListedProblem = { path: string; words: string; };
  type LoadShown = { id: string; turns: boolean; a: Api.EndShown; b: Api.EndShown; z: Array<number> | null; way: number; };
  type Mass = { id: string; name: string; mass: string; centre: Array<string>; };
  type MassesShown = { rows: Array<[string, string]>; time: number; centre: Array<Array<number>>; arms: Array<Array<Array<number>>>; };
  type Material_Output = { name: string; density: string; modulus: string; strength: string; colour: string; source: string; };
  type Measure = { name: string; value: string; formula: string; si: number; };
  type Measured = { what: string; a: Api.Place; b: Api.Place; };
  type MobilityShown = { count: number; redundant: number; undriven: number; loose: Array<string>; freedoms: Array<string>; };
  type MoveShown = { path: string; axis: string; factor: number; si: number; fixed: boolean; };
  type MovedPart = { way: number; turn: number; };
  type NameRequest = { name: string; };
  type NewMechanism = { name: string; document: Record<string, Api.JsonValue> | null; };
  type NewStepRequest = { part: string; kind: string; datum: string; };
  type Node = { id: string; path: string; name: string; kind: string; symbol: string; placed: string; local: Array<number>; z: Array<number>; links: Array<number>; ground: boolean; driven: boolean; sense: number; first: number; part: string; };
  type NumberChangeShown = { path: string; name: string; before: string; after: string; };
  type NumberLimits = { path: string; low: string; high: string; };
  type Of = { placed: string; body: null | string; };
  type OffsetForGap = { offset: string; moves: string; command: Record<string, Api.JsonValue>; };
  type OffsetRequest = { joint: string; against: string; gap: string; };
  type OnRevision = { revision: number; };
  type OnShelf = { id: string; name: string; folder: string; revision: number; changed: string; };
  type Opening = { face: string; };
  type OwnSize = { view: "front" | "above" | "beside"; kind: "across" | "upright"; a: string; b: string; right: string; up: string; after: "" | string; };
  type Parallel = { kind: "parallel"; name: string; a: Api.At_Output; b: Api.At_Output; turn_from: string; turn_to: string; slide_from: string; slide_to: string; side: "same" | "opposite"; };
  type Parameter = { formula: string; note: string; measured: Api.Measured | null; };
  type ParameterShown = { name: string; formula: string; stale: boolean; };
  type Part = { name: string; material: string; element: { kind: "angle_bracket"; leg_x: string; leg_y: string; width: string; thickness: string; corner: string; } | { kind: "angled_link"; arm_1: string; arm_2: string; angle: string; width: string; thickness: string; bore_1: string; bore_2: string; bore_3: string; } | { kind: "arc_link"; radius: string; span: string; width: string; thickness: string; bore: string; slot: string; slot_width: string; } | { kind: "ball_bearing"; size: "623" | "624" | "625" | "626" | "607" | "608" | "609" | "6000" | "6001" | "6002" | "6003" | "6004" | "6005" | "6006" | "6007" | "6008" | "6009" | "6010" | "6200" | "6201" | "6202" | "6203" | "6204" | "6205" | "6206" | "6207" | "6208" | "6300" | "6301" | "6302" | "6303" | "6304" | "6305" | "R4" | "R6" | "R8" | "R10" | "R12" | "R16"; } | { kind: "bellows_half"; bore: string; diameter: string; body: string; folds: string; fold: string; core: string; offset: string; angle: string; shift: string; } | { kind: "bent_sheet"; form: "angle" | "channel" | "offset"; measured: "outside" | "inside"; first: string; second: string; third: string; width: string; thickness: string; inside_radius: string; neutral: string; } | { kind: "blank"; } | { kind: "block"; length: string; width: string; height: string; corner: string; bore: string; } | { kind: "bush"; size: "6" | "8" | "10" | "12" | "14" | "15" | "16" | "18" | "20" | "22" | "24" | "25" | "27" | "28" | "30" | "32" | "33" | "35" | "36" | "38" | "40" | "42" | "45" | "48" | "50" | "55" | "60"; length: string; } | { kind: "cap_screw"; size: "M1.6" | "M2" | "M2.5" | "M3" | "M4" | "M5" | "M6" | "M8" | "M10" | "M12" | "M14" | "M16" | "M20" | "M24" | "M30" | "M36" | "4-40" | "6-32" | "8-32" | "10-24" | "10-32" | "1/4-20" | "1/4-28" | "5/16-18" | "3/8-16" | "7/16-14" | "1/2-13" | "5/8-11" | "3/4-10"; length: string; } | { kind: "carrier"; diameter: string; thickness: string; bore: string; pins: string; pin_circle: string; pin_diameter: string; pin_height: string; } | { kind: "clevis_pin"; size: "3" | "4" | "5" | "6" | "8" | "10" | "12" | "14" | "16" | "18" | "20" | "24" | "30"; length: string; } | { kind: "conjugate_cam"; base_diameter: string; width: string; gap: string; hub: string; bore: string; roller_2: string; between: string; arm_2: string; play: string; outline: { kind: "eccentric"; eccentricity: string; } | { kind: "given"; rows: string; } | { kind: "sliding_flat"; lift: Record<string, any>; } | { kind: "sliding_point"; offset: string; lift: Record<string, any>; } | { kind: "sliding_roller"; roller: string; offset: string; lift: Record<string, any>; } | { kind: "swinging_flat"; pivot: string; offset: string; swing: Record<string, any>; } | { kind: "swinging_roller"; roller: string; arm: string; pivot: string; swing: Record<string, any>; } | { kind: "tangents"; nose: string; distance: string; }; } | { kind: "countersunk_screw"; size: "M3" | "M4" | "M5" | "M6" | "M8" | "M10" | "M12" | "M16" | "M20" | "4-40" | "6-32" | "8-32" | "10-24" | "10-32" | "1/4-20" | "1/4-28" | "5/16-18" | "3/8-16" | "7/16-14" | "1/2-13" | "5/8-11" | "3/4-10"; length: string; } | { kind: "counterweight"; bore: string; ring: string; radius: string; span: string; thickness: string; } | { kind: "cross"; length: string; arm: string; block: string; } | { kind: "dowel"; size: "0.6" | "0.8" | "1" | "1.2" | "1.5" | "2" | "2.5" | "3" | "4" | "5" | "6" | "8" | "10" | "12" | "16" | "20" | "25" | "30" | "40" | "50" | "1/16" | "3/32" | "1/8" | "3/16" | "1/4" | "5/16" | "3/8" | "7/16" | "1/2" | "5/8" | "3/4" | "7/8" | "1in"; length: string; } | { kind: "eccentric_disc"; diameter: string; thickness: string; bore: string; eccentricity: string; pin_diameter: string; pin_height: string; } | { kind: "frame_plate"; length: string; width: string; thickness: string; corner: string; bores: Record<string, any>; posts: Record<string, any>; } | { kind: "geneva_driver"; slots: string; distance: string; pin_diameter: string; play: string; lock: string; width: string; thickness: string; gap: string; bore: string; } | { kind: "geneva_wheel"; slots: string; distance: string; pin_diameter: string; play: string; lock: string; width: string; bore: string; } | { kind: "groove_cam"; base_diameter: string; width: string; depth: string; wall: string; play: string; bore: string; outline: { kind: "eccentric"; eccentricity: string; } | { kind: "given"; rows: string; } | { kind: "sliding_flat"; lift: Record<string, any>; } | { kind: "sliding_point"; offset: string; lift: Record<string, any>; } | { kind: "sliding_roller"; roller: string; offset: string; lift: Record<string, any>; } | { kind: "swinging_flat"; pivot: string; offset: string; swing: Record<string, any>; } | { kind: "swinging_roller"; roller: string; arm: string; pivot: string; swing: Record<string, any>; } | { kind: "tangents"; nose: string; distance: string; }; } | { kind: "hex_nut"; size: "M1.6" | "M2" | "M2.5" | "M3" | "M4" | "M5" | "M6" | "M8" | "M10" | "M12" | "M14" | "M16" | "M20" | "M24" | "M30" | "M36" | "4-40" | "6-32" | "8-32" | "10-24" | "10-32" | "1/4-20" | "1/4-28" | "5/16-18" | "3/8-16" | "7/16-14" | "1/2-13" | "5/8-11" | "3/4-10"; } | { kind: "hinge_leaf"; length: string; width: string; thickness: string; knuckle_diameter: string; bore: string; knuckles: string; first: boolean; gap: string; } | { kind: "housing"; length: string; width: string; height: string; wall: string; floor: string; corner: string; bore: string; } | { kind: "imported"; contents: string; file: string; } | { kind: "internal_retaining_ring"; size: "8" | "9" | "10" | "11" | "12" | "13" | "14" | "15" | "16" | "17" | "18" | "19" | "20" | "21" | "22" | "24" | "25" | "26" | "28" | "30" | "31" | "32" | "34" | "35" | "36" | "37" | "38" | "40" | "42" | "45" | "47" | "48" | "50" | "52" | "55" | "56" | "58" | "60" | "62" | "63" | "65" | "68" | "70" | "72" | "75" | "78" | "80" | "85" | "88" | "90" | "92" | "95" | "98" | "100"; } | { kind: "jaw_hub"; bore: string; diameter: string; body: string; jaws: string; jaw_length: string; ring: string; play: string; } | { kind: "jaw_star"; diameter: string; jaws: string; thickness: string; ring: string; hole: string; play: string; } | { kind: "like"; part: string; mirrored: boolean; changes: Record<string, any>; } | { kind: "link_bar"; distance: string; second_distance: string; width: string; thickness: string; bore_1: string; bore_2: string; bore_3: string; finger: string; finger_width: string; chamfer: string; } | { kind: "oldham_disc"; diameter: string; thickness: string; tongue: string; depth: string; play: string; hole: string; } | { kind: "oldham_hub"; bore: string; diameter: string; body: string; groove: string; depth: string; gap: string; } | { kind: "parallel_key"; size: "2x2" | "3x3" | "4x4" | "5x5" | "6x6" | "8x7" | "10x8" | "12x8" | "14x9" | "16x10" | "18x11" | "20x12" | "22x14" | "25x14" | "28x16" | "3/32" | "1/8" | "3/16" | "1/4" | "5/16" | "3/8" | "1/2"; length: string; } | { kind: "pin"; diameter: string; length: string; head_diameter: string; head_height: string; chamfer: string; } | { kind: "plate_cam"; base_diameter: string; width: string; bore: string; outline: { kind: "eccentric"; eccentricity: string; } | { kind: "given"; rows: string; } | { kind: "sliding_flat"; lift: Record<string, any>; } | { kind: "sliding_point"; offset: string; lift: Record<string, any>; } | { kind: "sliding_roller"; roller: string; offset: string; lift: Record<string, any>; } | { kind: "swinging_flat"; pivot: string; offset: string; swing: Record<string, any>; } | { kind: "swinging_roller"; roller: string; arm: string; pivot: string; swing: Record<string, any>; } | { kind: "tangents"; nose: string; distance: string; }; } | { kind: "prism"; sides: string; across_flats: string; length: string; bore: string; } | { kind: "pulley"; diameter: string; width: string; bore: string; sunk: string; flange: string; flange_width: string; } | { kind: "rack"; module: string; teeth: string; width: string; height: string; pressure_angle: string; thinning: string; } | { kind: "retaining_ring"; size: "3" | "4" | "5" | "6" | "7" | "8" | "9" | "10" | "11" | "12" | "13" | "14" | "15" | "16" | "17" | "18" | "19" | "20" | "21" | "22" | "24" | "25" | "26" | "28" | "29" | "30" | "32" | "34" | "35" | "36" | "38" | "40" | "42" | "45" | "48" | "50" | "52" | "55" | "56" | "58" | "60" | "62" | "63" | "65" | "68" | "70" | "72" | "75" | "78" | "80" | "82" | "85" | "88" | "90" | "95" | "100" | "1/4" | "5/16" | "3/8" | "7/16" | "1/2" | "5/8" | "3/4" | "7/8" | "1in" | "1-1/4" | "1-1/2"; } | { kind: "ring_gear"; module: string; teeth: string; width: string; outer_diameter: string; pressure_angle: string; thinning: string; } | { kind: "set_screw"; size: "M1.6" | "M2" | "M2.5" | "M3" | "M4" | "M5" | "M6" | "M8" | "M10" | "M12" | "M16" | "M20" | "M24" | "4-40" | "6-32" | "8-32" | "10-24" | "10-32" | "1/4-20" | "1/4-28" | "5/16-18" | "3/8-16" | "7/16-14" | "1/2-13" | "5/8-11" | "3/4-10"; length: string; } | { kind: "sleeve"; bore: string; other_bore: string; diameter: string; length: string; screw_hole: string; } | { kind: "slide_bar"; length: string; width: string; thickness: string; head: string; neck: string; bore: string; } | { kind: "slide_guide"; length: string; width: string; height: string; channel_width: string; channel_depth: string; bore: string; } | { kind: "slotted_lever"; slot_start: string; slot_length: string; slot_width: string; tip: string; width: string; thickness: string; bore: string; } | { kind: "sprocket"; teeth: string; pitch: string; roller: string; width: string; bore: string; } | { kind: "spur_gear"; module: string; teeth: string; width: string; bore: string; pressure_angle: string; profile_shift: string; addendum: string; dedendum: string; root_radius: string; thinning: string; pins: Record<string, any>; } | { kind: "stepped_shaft"; diameter_1: string; length_1: string; diameter_2: string; length_2: string; diameter_3: string; length_3: string; bore: string; chamfer: string; } | { kind: "toothed_pulley"; teeth: string; pitch: string; width: string; bore: string; pitch_line: string; groove: string; flange: string; flange_width: string; } | { kind: "tube"; diameter: string; bore: string; length: string; } | { kind: "washer"; size: "M1.6" | "M2" | "M2.5" | "M3" | "M4" | "M5" | "M6" | "M8" | "M10" | "M12" | "M14" | "M16" | "M20" | "M24" | "M30" | "M36" | "No.4" | "No.6" | "No.8" | "No.10" | "1/4" | "5/16" | "3/8" | "7/16" | "1/2" | "5/8" | "3/4"; } | { kind: "yoke"; bore: string; diameter: string; body: string; reach: string; opening: string; arm: string; }; steps: Record<string, any>; colour: string; measured_mass: string; centre_x: string; centre_y: string; centre_z: string; };
  type PartInLayer = { id: string; path: string; area: number; };
  type PartShown = { id: string; name: string; part: string; element: string; material: string; frame: boolean; isFrame: boolean; link: number; solid: null | string; bodies: Array<string>; mass: string; hint: string; loose: boolean; leftOut: boolean; copyOf: string; datums: Array<Api.DatumShown>; faces: Record<string, Array<string>>; colour: string; };
  type PathPiece = { length: string; turn: string; radius: string; };
  type Perpendicular = { kind: "perpendicular"; name: string; a: Api.At_Output; b: Api.At_Output; turn_from: string; turn_to: string; slide_from: string; slide_to: string; };
  type PieceRequest = { parts: Array<string>; };
  type Place = { placed: string; datum: string; };
  type Placed = { name: string; part: string; start: Api.Start; mirrored: boolean; left_out: boolean; };
  type Planar = { kind: "planar"; name: string; a: Api.At_Output; b: Api.At_Output; offset: string; flip: boolean; };
  type PlaneShown = { name: string; x: number; y: number; allowed: number; words: string; mend: string; };
  type Post = { x: string; y: string; diameter: string; height: string; };
  type Preview = { solid: string; bodies: Array<string>; derived: Array<Array<string>>; fields: Array<Api.FieldShown>; datums: Array<Api.DatumShown>; drawing: Array<Api.ViewDrawn>; volume: string; };
  type PrintLayer = { layer: number; height: number; parts: Array<Api.PartInLayer>; exact: boolean; within: number; reason: string; };
  type PrintLayers = { count: number; height: number; box: [number, number, number, number]; setting: Api.PrintSetting; changed: boolean; parts: Array<Api.PrintedPart>; findings: Array<Api.FoundInLayers>; verdict: string; holds: boolean | null; facts: Array<[string, string]>; faces: Array<[string, string]>; groups: Array<[string, string]>; requirements: Array<[string, string]>; basis: string; };
  type PrintSetting = { requirement: string; of: string; at_least: string; layer: string; line: string; down: string; };
  type PrintedPart = { id: string; name: string; colour: string; };
  type Prismatic = { kind: "prismatic"; name: string; a: Api.At_Output; b: Api.At_Output; offset: string; flip: boolean; turn: string; slide_from: string; slide_to: string; };
  type Progress = { words: string; fraction: number; };
  type PullRequest = { at: Api.At_Input; id: string; values: Record<string, string>; gap: string; against: string; cycle: boolean; };
  type PullResult = { by: string; };
  type Relation = { kind: string; name: string; a: Api.At_Output; b: Api.At_Output; turn_from: string; turn_to: string; slide_from: string; slide_to: string; };
  type RemediesAnswer = { offers: Array<Api.RemedyShown>; moves: Array<Api.SensitiveNumber>; words: string; fraction: number; done: boolean; };
  type RemedyShown = { id: string; changes: Array<Api.NumberChangeShown>; words: string; breaks: boolean; effects: Array<Api.ChangedVerdict>; mass: string; command: Record<string, any>; };
  type Repeat = { kind: string; name: string; placed: Array<string>; };
  type Replaced = { command: Record<string, any>; said: Array<string>; };
  type RepositionRequest = { placed: string; move: Record<string, string>; turn: Record<string, string>; about: [number, number, number]; };
  type Repositioned = { command: Record<string, Api.JsonValue>; poses: Record<string, Array<number>>; words: string; };
  type RestoreRequest = { revision: number; to: number; };
  type RevisionSummary = { number: number; words: string; name: string; time: string; failing: null | number; unknown: null | number; total: null | number; };
  type Revolute = { kind: "revolute"; name: string; a: Api.At_Output; b: Api.At_Output; offset: string; flip: boolean; turn_from: string; turn_to: string; };
  type Rigid = { kind: "rigid"; name: string; a: Api.At_Output; b: Api.At_Output; offset: string; flip: boolean; turn: string; };
  type RotorShown = { warning: string; joint: string; name: string; parts: string; rows: Array<[string, string]>; holds: boolean | null; reach: string; planes: Array<Api.PlaneShown>; required: string; };
  type RoundedPull = { by: string; words: string; };
  type Scheme = { nodes: Array<Api.Node>; links: Array<Api.LinkShown>; gears: Array<Api.GearShown>; cams: Array<Api.CamShown>; u: Array<number>; v: Array<number>; loops: number; };
  type Screw = { kind: "screw"; name: string; a: Api.At_Output; b: Api.At_Output; offset: string; flip: boolean; lead: string; turn_from: string; turn_to: string; slide_from: string; slide_to: string; };
  type ScrewPair = { kind: "screw_nut"; name: string; a: Api.At_Output; b: Api.At_Output; lead: string; };
  type SearchRequest = { of: string; way: "least" | "most" | "equal"; to: string; numbers: Array<Api.NumberLimits>; conditions: Array<string>; };
  type SearchShown = { state: string; words: string; names: Array<string>; steps: Array<Api.SearchStepShown>; best: null | number; rounded: null | number; };
  type SearchStarted = { id: number; };
  type SearchStepCommand = { command: Record<string, any>; values: Record<string, string>; };
  type SearchStepShown = { number: number; texts: Array<string>; value: string; holds: boolean; failing: Array<string>; high: null | number; };
  type Searchable = { goal: string; way: string; to: string; numbers: Array<Api.SearchableNumber>; conditions: Record<string, string>; };
  type SearchableNumber = { path: string; name: string; text: string; low: string; high: string; };
  type SegmentShown = { id: string; path: string; begin: number; end: number; start: number; to: number; law: string; loose: Array<string>; };
  type SensitiveNumber = { path: string; name: string; words: string; card: string; };
  type SeriesShown = { name: string; unit: string; values: Array<null | number>; low: Array<number>; high: Array<number>; words: string; estimated: boolean; };
  type ShakingShown = { words: string; reach: string; axes: string; points: Array<[number, number]>; after: Array<[number, number]>; mend: Array<string>; moment: string; turned: Array<[number, number]>; turnedReach: string; turnedAxes: string; };
  type ShelfImport = { created: Array<string>; refused: Record<string, string>; };
  type SizeOfSheet = { key: string; words: string; view: string; kind: string; place: number; among: number; value: string; hidden: boolean; among_own: "" | "own_sizes" | "face_textures"; own_key: string; };
  type SizeSetting = { view: "front" | "above" | "beside"; kind: "across" | "upright" | "diameter" | "radius"; place: number; among: number; value: string; hidden: boolean; right: string; up: string; after: "" | string; };
  type SlideSegment = { to: string; over: string; law: { kind: "cycloidal"; } | { kind: "harmonic"; } | { kind: "linear"; } | { kind: "modified_sine"; } | { kind: "modified_trapezoid"; } | { kind: "poly345"; } | { kind: "poly4567"; } | { kind: "quadratic"; } | { kind: "spline"; points: Record<string, any>; }; };
  type SlotPair = { kind: "slot"; name: string; a: Api.At_Output; b: Api.At_Output; };
  type Spherical = { kind: "spherical"; name: string; a: Api.At_Output; b: Api.At_Output; offset: string; flip: boolean; };
  type SpiralSpringPair = { kind: "spiral_spring"; name: string; a: Api.At_Output; b: Api.At_Output; preload: string; width: string; thickness: string; inner: string; outer: string; length: string; elastic_modulus: string; };
  type Spot = { x: string; y: string; };
  type SpotOfSheet = { view: string; datum: string; label: string; x: number; y: number; known: "both" | "across" | "upright"; };
  type SpringPair = { kind: "spring"; name: string; a: Api.At_Output; b: Api.At_Output; loading: "compression" | "extension"; free_length: string; wire_diameter: string; mean_diameter: string; active_coils: string; shear_modulus: string; elastic_modulus: string; ends: "both_flat_and_guided" | "flat_and_pivoting" | "both_pivoting" | "flat_and_free"; };
  type SpringShown = { id: string; shape: "coil" | "spiral" | "leaf"; a: Api.EndShown; b: Api.EndShown; turn: Array<number>; sizes: Record<string, number>; };
  type Sprout = { id: string; kind: string; title: string; element: string; asks: Array<Api.GrowthRequest>; command: Record<string, any>; pulls: boolean; rounded: Array<Api.RoundedPull>; };
  type Start = { x: string; y: string; z: string; turn_x: string; turn_y: string; turn_z: string; };
  type State = { id: string; revision: number; words: string; undo: null | string; redo: null | string; name: string; variant: string; baseline: null | number; };
  type StatedRequirement = { kind: string; name: string; };
  type StepShown = { id: string; path: string; kind: string; name: string; title: string; about: string; state: string; why: string; fields: Array<Api.FieldShown>; results: Array<Array<string>>; more: Record<string, Api.JsonValue>; plane: Array<Array<number>>; handles: Array<Api.HandleShown>; loops: Array<Array<Array<number>>>; };
  type SwitchRequest = { revision: number; name: string; };
  type Symmetric = { kind: "symmetric"; name: string; a: Api.At_Output; b: Api.At_Output; turn_from: string; turn_to: string; slide_from: string; slide_to: string; about: Api.At_Output; side: "same" | "opposite"; };
  type Tangent = { kind: "tangent"; name: string; a: Api.At_Output; b: Api.At_Output; turn_from: string; turn_to: string; slide_from: string; slide_to: string; side: "outside" | "inside"; };
  type Through = { time: string; way: string; };
  type Tile = { requirement: string; name: string; kind: string; holds: boolean | null; words: string; value: null | number; limit: null | number; sense: null | string; margin: null | number; error: number; unit: null | string; time: null | number; parts: Array<string>; points: Array<Array<number>>; basis: string; valueText: string; limitText: string; shownUnit: string; fill: number; mark: number; errorText: string; bodies: Array<string>; };
  type TimingEdit = { driver: string; segment: string; what: "corner" | "split" | "stay" | "remove"; until: null | number; to: null | string; following: boolean; };
  type TimingRequest = { command: Record<string, Api.JsonValue>; };
  type TorquePair = { kind: "torque"; name: string; a: Api.At_Output; b: Api.At_Output; torque: string; acts: "always" | "against_the_motion" | "with_the_motion"; };
  type TorsionSpringPair = { kind: "torsion_spring"; name: string; a: Api.At_Output; b: Api.At_Output; preload: string; wire_diameter: string; mean_diameter: string; active_coils: string; elastic_modulus: string; };
  type TransmissionAngle = { kind: "transmission_angle"; name: string; coupler: Api.At_Output; joint: Api.At_Output; pivot: Api.At_Output; };
  type Transmits = { id: string; name: string; kind: string; ratio: string; };
  type Turn = { x: string; y: string; bulge: string; };
  type TurnRequest = { path: string; steps: number; values: Record<string, string>; };
  type TurnSegment = { to: string; over: string; law: { kind: "cycloidal"; } | { kind: "harmonic"; } | { kind: "linear"; } | { kind: "modified_sine"; } | { kind: "modified_trapezoid"; } | { kind: "poly345"; } | { kind: "poly4567"; } | { kind: "quadratic"; } | { kind: "spline"; points: Record<string, any>; }; };
  type TurnedNumber = { text: string; revision: number; view: Api.View; };
  type TwoDatums = { a: Api.At_Input; b: Api.At_Input; };
  type UnclearSize = { part: "sizes" | "own_sizes" | "face_textures"; key: string; words: string; };
  type Units = { length: "mm" | "cm" | "m" | "in"; mass: "g" | "kg" | "oz" | "lb"; };
  type UnitsShown = { length: string; mass: string; };
  type Universal = { kind: "universal"; name: string; a: Api.At_Output; b: Api.At_Output; offset: string; flip: boolean; };
  type ValidationError = { loc: Array<number | string>; msg: string; type: string; input: any; ctx: Record<string, any>; };
  type VariantRequest = { revision: number; of: number; name: string; };
  type VariantSummary = { name: string; revision: number; words: string; current: boolean; failing: null | number; unknown: null | number; total: null | number; };
  type VerdictsShown = { requirement: string; name: string; before: boolean | null; after: boolean | null; was: string; now: string; turned: boolean; mark: null | number; };
  type View = { name: string; note: string; units: Api.UnitsShown; frame: null | string; duration: number; reached: number; frames: number; moving: boolean; residual: null | number; seconds: number; proved: boolean; problems: Array<Api.ListedProblem>; conflict: Array<string>; mobility: Api.MobilityShown | null; verdicts: Array<Api.Tile>; placed: Array<Api.PartShown>; springs: Array<Api.SpringShown>; loads: Array<Api.LoadShown>; belts: Array<Api.BeltShown>; scheme: Api.Scheme; lanes: Array<Api.Lane>; cards: Record<string, Api.Card>; masses: Array<Api.Mass>; joints: Array<Api.ListedJoint>; relations: Array<Api.ListedJoint>; pairs: Array<Api.Transmits>; repeats: Array<Api.ListedKind>; driveable: Array<Api.Driveable>; remarks: Array<Api.ListedProblem>; drivers: Array<Api.DriverShown>; curves: Array<Api.CurveNamed>; requirements: Array<Api.ListedItem>; parameters: Array<Api.ParameterShown>; materials: Array<Api.ListedItem>; parts: Array<Api.ListedItem>; groups: Array<Api.GroupShown>; };
  type ViewDrawn = { name: string; edges: Array<Array<number>>; dimensions: Array<Api.DimensionLine>; box: Array<number>; };
  type Which = { step: string; };
  type WormPair = { kind: "worm"; name: string; a: Api.At_Output; b: Api.At_Output; starts: number; teeth: number; hand: "right" | "left"; };
}

/** What a call answers. */
type Answer<M extends string, P extends string> =
  M extends never ? never
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/balance/${string}/corrections` | `/api/mechanisms/${string}/revisions/${string}/balance/${string}/corrections?${string}`] ? Api.Corrected
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/solids/${string}/${string}` | `/api/mechanisms/${string}/revisions/${string}/solids/${string}/${string}?${string}`] ? any
  : [M, P] extends ["POST", `/api/mechanisms/${string}/parts/${string}/take/${string}` | `/api/mechanisms/${string}/parts/${string}/take/${string}?${string}`] ? Api.Replaced
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/against/${string}` | `/api/mechanisms/${string}/revisions/${string}/against/${string}?${string}`] ? Api.Comparison
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/cutter/${string}` | `/api/mechanisms/${string}/revisions/${string}/cutter/${string}?${string}`] ? any
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/drawings/${string}` | `/api/mechanisms/${string}/revisions/${string}/drawings/${string}?${string}`] ? Array<Api.ViewDrawn>
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/freedoms/${string}` | `/api/mechanisms/${string}/revisions/${string}/freedoms/${string}?${string}`] ? any
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/places/${string}` | `/api/mechanisms/${string}/revisions/${string}/places/${string}?${string}`] ? Record<string, Api.FrameValues>
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/remedies/${string}` | `/api/mechanisms/${string}/revisions/${string}/remedies/${string}?${string}`] ? Api.RemediesAnswer
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/searchable/${string}` | `/api/mechanisms/${string}/revisions/${string}/searchable/${string}?${string}`] ? Api.Searchable
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/shared/${string}` | `/api/mechanisms/${string}/revisions/${string}/shared/${string}?${string}`] ? any
  : [M, P] extends ["GET", `/api/mechanisms/${string}/searches/${string}/steps/${string}` | `/api/mechanisms/${string}/searches/${string}/steps/${string}?${string}`] ? Api.SearchStepCommand
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/balance` | `/api/mechanisms/${string}/revisions/${string}/balance?${string}`] ? Api.Balance
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/curves` | `/api/mechanisms/${string}/revisions/${string}/curves?${string}`] ? Array<Api.CurveShown>
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/curves.csv` | `/api/mechanisms/${string}/revisions/${string}/curves.csv?${string}`] ? any
  : [M, P] extends ["POST", `/api/mechanisms/${string}/revisions/${string}/drafts` | `/api/mechanisms/${string}/revisions/${string}/drafts?${string}`] ? Api.Draft
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/lanes` | `/api/mechanisms/${string}/revisions/${string}/lanes?${string}`] ? Array<Api.Lane>
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/masses` | `/api/mechanisms/${string}/revisions/${string}/masses?${string}`] ? Api.MassesShown
  : [M, P] extends ["PUT", `/api/mechanisms/${string}/revisions/${string}/name` | `/api/mechanisms/${string}/revisions/${string}/name?${string}`] ? null
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/poses` | `/api/mechanisms/${string}/revisions/${string}/poses?${string}`] ? any
  : [M, P] extends ["POST", `/api/mechanisms/${string}/revisions/${string}/searches` | `/api/mechanisms/${string}/revisions/${string}/searches?${string}`] ? Api.SearchStarted
  : [M, P] extends ["POST", `/api/mechanisms/${string}/revisions/${string}/turned` | `/api/mechanisms/${string}/revisions/${string}/turned?${string}`] ? Api.TurnedNumber
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/values` | `/api/mechanisms/${string}/revisions/${string}/values?${string}`] ? Record<string, Record<string, Api.KnownValue>>
  : [M, P] extends ["DELETE", `/api/mechanisms/${string}/revisions/${string}/view` | `/api/mechanisms/${string}/revisions/${string}/view?${string}`] ? null
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions/${string}/view` | `/api/mechanisms/${string}/revisions/${string}/view?${string}`] ? Api.View
  : [M, P] extends ["POST", `/api/mechanisms/${string}/searches/${string}/${string}` | `/api/mechanisms/${string}/searches/${string}/${string}?${string}`] ? Api.SearchShown
  : [M, P] extends ["GET", `/api/mechanisms/${string}/sheets/${string}/${string}` | `/api/mechanisms/${string}/sheets/${string}/${string}?${string}`] ? any
  : [M, P] extends ["GET", `/api/elements/solids/${string}/${string}` | `/api/elements/solids/${string}/${string}?${string}`] ? any
  : [M, P] extends ["GET", `/api/mechanisms/${string}/drawings/${string}` | `/api/mechanisms/${string}/drawings/${string}?${string}`] ? any
  : [M, P] extends ["GET", `/api/mechanisms/${string}/files/${string}` | `/api/mechanisms/${string}/files/${string}?${string}`] ? any
  : [M, P] extends ["GET", `/api/mechanisms/${string}/layers/${string}` | `/api/mechanisms/${string}/layers/${string}?${string}`] ? Api.PrintLayer
  : [M, P] extends ["GET", `/api/mechanisms/${string}/searches/${string}` | `/api/mechanisms/${string}/searches/${string}?${string}`] ? Api.SearchShown
  : [M, P] extends ["GET", `/api/mechanisms/${string}/sheets/${string}` | `/api/mechanisms/${string}/sheets/${string}?${string}`] ? Api.DrawingSheet
  : [M, P] extends ["POST", `/api/mechanisms/${string}/take/${string}` | `/api/mechanisms/${string}/take/${string}?${string}`] ? Api.ImportResult
  : [M, P] extends ["DELETE", `/api/mechanisms/${string}/variants/${string}` | `/api/mechanisms/${string}/variants/${string}?${string}`] ? null
  : [M, P] extends ["POST", `/api/mechanisms/${string}/back` | `/api/mechanisms/${string}/back?${string}`] ? Api.State
  : [M, P] extends ["PUT", `/api/mechanisms/${string}/baseline` | `/api/mechanisms/${string}/baseline?${string}`] ? Api.State
  : [M, P] extends ["POST", `/api/mechanisms/${string}/candidates` | `/api/mechanisms/${string}/candidates?${string}`] ? Array<Api.JoinOption>
  : [M, P] extends ["POST", `/api/mechanisms/${string}/commands` | `/api/mechanisms/${string}/commands?${string}`] ? Api.State
  : [M, P] extends ["POST", `/api/mechanisms/${string}/copy` | `/api/mechanisms/${string}/copy?${string}`] ? Api.State
  : [M, P] extends ["GET", `/api/mechanisms/${string}/document` | `/api/mechanisms/${string}/document?${string}`] ? Api.Document
  : [M, P] extends ["PUT", `/api/mechanisms/${string}/folder` | `/api/mechanisms/${string}/folder?${string}`] ? null
  : [M, P] extends ["POST", `/api/mechanisms/${string}/ghosts` | `/api/mechanisms/${string}/ghosts?${string}`] ? Array<Api.GhostPose>
  : [M, P] extends ["POST", `/api/mechanisms/${string}/grow` | `/api/mechanisms/${string}/grow?${string}`] ? Array<Api.Sprout>
  : [M, P] extends ["POST", `/api/mechanisms/${string}/include` | `/api/mechanisms/${string}/include?${string}`] ? Api.Included
  : [M, P] extends ["GET", `/api/mechanisms/${string}/layers` | `/api/mechanisms/${string}/layers?${string}`] ? Api.PrintLayers
  : [M, P] extends ["POST", `/api/mechanisms/${string}/measure` | `/api/mechanisms/${string}/measure?${string}`] ? Array<Api.Measure>
  : [M, P] extends ["POST", `/api/mechanisms/${string}/new-step` | `/api/mechanisms/${string}/new-step?${string}`] ? Api.CommandAnswer
  : [M, P] extends ["POST", `/api/mechanisms/${string}/other-mode` | `/api/mechanisms/${string}/other-mode?${string}`] ? Api.State
  : [M, P] extends ["POST", `/api/mechanisms/${string}/piece` | `/api/mechanisms/${string}/piece?${string}`] ? Api.Document
  : [M, P] extends ["POST", `/api/mechanisms/${string}/pull` | `/api/mechanisms/${string}/pull?${string}`] ? Api.PullResult
  : [M, P] extends ["POST", `/api/mechanisms/${string}/redo` | `/api/mechanisms/${string}/redo?${string}`] ? Api.State
  : [M, P] extends ["GET", `/api/mechanisms/${string}/report.pdf` | `/api/mechanisms/${string}/report.pdf?${string}`] ? any
  : [M, P] extends ["POST", `/api/mechanisms/${string}/reposition` | `/api/mechanisms/${string}/reposition?${string}`] ? Api.Repositioned
  : [M, P] extends ["POST", `/api/mechanisms/${string}/restore` | `/api/mechanisms/${string}/restore?${string}`] ? Api.State
  : [M, P] extends ["GET", `/api/mechanisms/${string}/revisions` | `/api/mechanisms/${string}/revisions?${string}`] ? Array<Api.RevisionSummary>
  : [M, P] extends ["POST", `/api/mechanisms/${string}/seat` | `/api/mechanisms/${string}/seat?${string}`] ? Api.OffsetForGap
  : [M, P] extends ["GET", `/api/mechanisms/${string}/sheets` | `/api/mechanisms/${string}/sheets?${string}`] ? Api.DrawingChoices
  : [M, P] extends ["POST", `/api/mechanisms/${string}/timing` | `/api/mechanisms/${string}/timing?${string}`] ? Api.TimingRequest
  : [M, P] extends ["POST", `/api/mechanisms/${string}/try` | `/api/mechanisms/${string}/try?${string}`] ? Api.JoinPreview
  : [M, P] extends ["POST", `/api/mechanisms/${string}/undo` | `/api/mechanisms/${string}/undo?${string}`] ? Api.State
  : [M, P] extends ["POST", `/api/mechanisms/${string}/variant` | `/api/mechanisms/${string}/variant?${string}`] ? Api.State
  : [M, P] extends ["GET", `/api/mechanisms/${string}/variants` | `/api/mechanisms/${string}/variants?${string}`] ? Array<Api.VariantSummary>
  : [M, P] extends ["POST", `/api/mechanisms/${string}/variants` | `/api/mechanisms/${string}/variants?${string}`] ? Api.State
  : [M, P] extends ["POST", `/api/mechanisms/demo/${string}` | `/api/mechanisms/demo/${string}?${string}`] ? Api.State
  : [M, P] extends ["POST", `/api/elements/preview` | `/api/elements/preview?${string}`] ? Api.Preview
  : [M, P] extends ["POST", `/api/files/${string}` | `/api/files/${string}?${string}`] ? Api.State
  : [M, P] extends ["DELETE", `/api/materials/${string}` | `/api/materials/${string}?${string}`] ? null
  : [M, P] extends ["PUT", `/api/materials/${string}` | `/api/materials/${string}?${string}`] ? Api.ListedMaterial
  : [M, P] extends ["DELETE", `/api/mechanisms/${string}` | `/api/mechanisms/${string}?${string}`] ? null
  : [M, P] extends ["GET", `/api/mechanisms/${string}` | `/api/mechanisms/${string}?${string}`] ? Api.State
  : [M, P] extends ["GET", `/api/elements` | `/api/elements?${string}`] ? Array<Api.Entry>
  : [M, P] extends ["GET", `/api/kinds` | `/api/kinds?${string}`] ? Api.Choices
  : [M, P] extends ["GET", `/api/materials` | `/api/materials?${string}`] ? Array<Api.ListedMaterial>
  : [M, P] extends ["POST", `/api/materials` | `/api/materials?${string}`] ? Api.ListedMaterial
  : [M, P] extends ["GET", `/api/mechanisms` | `/api/mechanisms?${string}`] ? Array<Api.OnShelf>
  : [M, P] extends ["POST", `/api/mechanisms` | `/api/mechanisms?${string}`] ? Api.State
  : [M, P] extends ["GET", `/api/schema` | `/api/schema?${string}`] ? Record<string, any>
  : [M, P] extends ["POST", `/api/shelf` | `/api/shelf?${string}`] ? Api.ShelfImport
  : [M, P] extends ["GET", `/api/shelf.zip` | `/api/shelf.zip?${string}`] ? any
  : any;
