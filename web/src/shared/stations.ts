/** The stations as they are shown: name, the question that each answers, and its parts. Pages, tabs, keys and "go there" are made of it. */
import type { PartOf, StationId } from '@cork-elbow/core/findings';

export interface Part<Id extends string = string> {
  readonly id: Id;
  readonly name: string;
  /** Parts that stand together behind one name. */
  readonly group?: string;
}
type Described = {
  readonly [S in StationId]: {
    readonly name: string;
    readonly question: string;
    readonly parts: { readonly [P in PartOf<S>]: string | readonly [group: string, name: string] };
  };
};
const WIRES = 'Boards & wires';

/** In the order of the work. */
const described: Described = {
  measure: {
    name: 'Measure',
    question: 'What is it, exactly?',
    parts: { joints: 'Joints', rules: 'Rules', tools: 'Tools', base: 'Base', around: 'Around', table: 'DH table' },
  },
  motors: {
    name: 'Motors',
    question: 'What turns an angle into a command?',
    parts: {
      joints: 'Joint by joint',
      wires: [WIRES, 'Wires'],
      boards: [WIRES, 'Boards'],
      rails: [WIRES, 'Supplies'],
      signals: [WIRES, 'Inputs & outputs'],
      sensors: [WIRES, 'Sensors'],
      sheet: [WIRES, 'Sheet'],
      'power-up': 'Power-up',
      homing: 'Homing',
      leader: 'Guide',
    },
  },
  reach: {
    name: 'Reach',
    question: 'Can it get there?',
    parts: { target: 'Target', map: 'Map', points: 'Points', lengths: 'Lengths', drawing: 'Drawing test' },
  },
  load: {
    name: 'Load',
    question: 'Will it lift it?',
    parts: {
      lift: 'Lift',
      stand: 'Stand',
      supply: 'Supply',
      swap: 'Swap',
      balance: 'Springs',
      heat: 'Heat',
      accuracy: 'Accuracy',
      trials: 'Trials',
      sheet: 'Sheet',
    },
  },
  poses: { name: 'Poses', question: 'Where does it stand?', parts: {} },
  routine: {
    name: 'Routine',
    question: 'What does it do, and how smoothly?',
    parts: { steps: 'Steps', text: 'As text', build: 'Build', timeline: 'Timeline', smoothing: 'Smoothing' },
  },
  'hand-off': {
    name: 'Hand-off',
    question: 'What goes out and in?',
    parts: { out: 'Files out', in: 'Files in' },
  },
  bench: {
    name: 'Bench',
    question: 'Does it do what was planned?',
    parts: { live: 'Live', recordings: 'Recordings' },
  },
};

export const stationList = Object.entries(described).map(([id, { name, question }]) => ({
  id: id as StationId,
  name,
  question,
}));
export const questionOf = (station: StationId): string => described[station].question;
export const partsOf = <S extends StationId>(station: S): Part<PartOf<S>>[] =>
  Object.entries(described[station].parts as Record<string, string | readonly [string, string]>).map(([id, says]) =>
    typeof says === 'string'
      ? { id: id as PartOf<S>, name: says }
      : { id: id as PartOf<S>, name: says[1], group: says[0] },
  );
