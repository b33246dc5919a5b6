/** The two files of a firmware: what it does, and what it knows. */
import { dataOf } from './data';
import type { Described } from './described';
import { head } from './head';
import { adapter } from './sections/adapter';
import { bridge, bridgeTypes } from './sections/bridge';
import { counted } from './sections/counted';
import { bridgeWords, display, moverWords, playerWords } from './sections/display';
import { flash } from './sections/flash';
import { hand, handSensors } from './sections/hand';
import { hearing, saying } from './sections/line';
import { motors, motorShape } from './sections/motors';
import { mover } from './sections/mover';
import { playing } from './sections/playing';
import { running } from './sections/running';
import { slave, slaveTypes } from './sections/slave';
import { steering } from './sections/steering';
import { steps } from './sections/steps';
import { table } from './sections/table';
import { watch } from './sections/watch';
import type { Work } from './work';

export interface FirmwareFile {
  readonly name: string;
  readonly text: string;
}

/** What each kind of program has of its own; types that stand in heads of functions come before all functions. */
const parts: Record<
  Work['kind'],
  { readonly types?: string; readonly sections: readonly string[]; readonly states: string }
> = {
  bridge: { types: bridgeTypes, sections: [hearing, ...bridge], states: bridgeWords },
  player: { sections: [watch, playing, flash, table], states: playerWords },
  steps: { sections: [watch, playing, flash, steps], states: playerWords },
  hand: { sections: [mover, handSensors, hand], states: moverWords },
  registers: { types: slaveTypes, sections: [mover, slave], states: moverWords },
};

/** Main file and data header, in a folder of one name. */
export function sources(described: Described, folder: string, work: Work): FirmwareFile[] {
  const { types = '', sections: all, states } = parts[work.kind];
  const sections =
    work.kind === 'hand' && work.control.steering
      ? all.flatMap((each) => (each === hand ? [steering, hand] : [each]))
      : all;
  const shown = work.display ? [states, display] : [];
  const comment = ['/*', ...head(described, work).map((row) => ` * ${row}`.trimEnd()), ' */'];
  const counting = described.motors.some(({ kind }) => kind === 'counted') ? [counted] : [];
  const every = [adapter, motors, ...counting, motorShape, saying];
  const main = [...comment, '#include "rig.h"', types, ...every, ...sections, ...shown, running].join('\n');
  return [
    { name: `${folder}/${folder}.ino`, text: main.replace(/\n{3,}/g, '\n\n') },
    { name: `${folder}/rig.h`, text: dataOf(described, work) },
  ];
}
