/** The tables that a program steers by. */
import type { SphericalArm } from '../kinematics';
import { axisOf, vec3, type Vec3 } from '../linear';
import { MM_PER_M } from '../units/convert';
import { onlyJoint, pushes, type Bound, type Push, type Steered, type SteeringState, type Way } from './steering';
import { inComment, rows } from './text';

const pushNames: Record<Push, string> = { x: 'ALONG_X', y: 'ALONG_Y', z: 'ALONG_Z', tilt: 'TILT', roll: 'ROLL' };
/** A number of C, to what a float holds of it; without an end, far beyond all that is. */
const float = (value: number): string => {
  const text = String(Number(Math.min(1e9, Math.max(-1e9, value)).toPrecision(9)));
  return `${/[.e]/.test(text) ? text : `${text}.0`}f`;
};
const floats = (list: readonly number[]): string => `{${list.map(float).join(', ')}}`;
const one = (name: string, value: number): string => `static const float ${name} = ${float(value)};`;
/** Several of one sort in a row. */
const some = (name: string, parts: Readonly<Record<string, number>>): string =>
  `static const float ${Object.entries(parts)
    .map(([part, value]) => `${name}_${part} = ${float(value)}`)
    .join(', ')};`;
const vector = (name: string, [X, Y, Z]: Vec3): string => some(name, { X, Y, Z });
const inMm = (p: Vec3): Vec3 => [p[0] * MM_PER_M, p[1] * MM_PER_M, p[2] * MM_PER_M];

export function steeringRows(steering: Steered): string[] {
  const { way, slots, speeds, limits, bounds, goers, sticks, rest, presets, mmPerS, radPerS } = steering;
  const isSliding = way.kind === 'slide';
  const mixes = goers.filter((goer) => onlyJoint(goer) < 0);
  const pieces = goers[0].places.length - 1;
  const states = [rest, ...presets];
  return [
    `// Steering of ${inComment(steering.tool.name)}: millimetres, radians, the world’s axes.`,
    `#define STEERS_DELTA ${Number(way.kind === 'delta')}`,
    `#define STEERS_SLIDE ${Number(isSliding)}`,
    `#define STEERS_WRIST ${Number(way.kind === 'wrist')}`,
    `#define STEERS_ROLL ${Number(way.kind !== 'wrist' && steering.pushes.includes('roll'))}`,
    `static const uint8_t STEERED_COUNT = ${slots.length};`,
    ...wayRows(way),
    '',
    '// Joints stay between two values.',
    'struct Limit {',
    '  float low, high;',
    '};',
    `static const Limit LIMITS[] PROGMEM = {${limits.map(([low, high]) => `{${float(low)}, ${float(high)}}`).join(', ')}};`,
    `#define BOUND_COUNT ${bounds.length}`,
    ...(bounds.length ? boundRows(bounds, slots.length) : []),
    '// So fast joints may be, a second.',
    `static const float JOINT_SPEEDS[] PROGMEM = ${floats(speeds)};`,
    '// Each motor goes by a joint, or by a sum of some: between two values of it by a table of what it is told, in 256ths.',
    'struct Goer {',
    `  uint8_t motor, joint${mixes.length ? ', mix' : ''};`,
    '  float low, high, piecesPer, mostPerS;',
    '};',
    `#define USES_MIXES ${Number(mixes.length > 0)}`,
    ...(mixes.length
      ? [
          'static const uint8_t NO_MIX = 255;',
          `static const float MIXES[][STEERED_COUNT] PROGMEM = {${rows(mixes.map(({ factors }) => `${floats(factors)},`))}};`,
        ]
      : []),
    `static const uint8_t GOER_COUNT = ${goers.length};`,
    `static const uint8_t GOER_PLACES = ${pieces + 1};`,
    `static const Goer GOERS[] PROGMEM = {${rows(
      goers.map((goer) => {
        const { motor, perS, low, high } = goer;
        const mix = mixes.indexOf(goer);
        return `{${motor}, ${Math.max(0, onlyJoint(goer))}${mixes.length ? `, ${mix < 0 ? 'NO_MIX' : mix}` : ''}, ${float(low)}, ${float(high)}, ${float(pieces / (high - low))}, ${float(256 * perS)}},`;
      }),
    )}};`,
    `static const int32_t GOER_TABLES[][GOER_PLACES] PROGMEM = {${rows(
      goers.map(({ places }) => `{${places.map((place) => Math.round(place * 256)).join(', ')}},`),
    )}};`,
    '// Where steering begins: where it is expected to stand, and at each kept pose.',
    'struct Standing {',
    `  float at[${pushes.length}], joints[STEERED_COUNT];`,
    '  uint8_t isLeft;',
    ...(way.kind === 'wrist' ? ['  float turned[9];'] : []),
    '};',
    `static const Standing STANDINGS[] PROGMEM = {${rows(states.map(stateRow))}};`,
    '',
    '// half: raw counts from either end of what a stick can read to its middle.',
    'struct Stick {',
    '  uint8_t sensor, push, reversed;',
    '  int32_t half;',
    '};',
    `static const uint8_t STICK_COUNT = ${sticks.length};`,
    `enum Push : uint8_t { ${pushes.map((push) => pushNames[push]).join(', ')}, PUSH_COUNT };`,
    `static const Stick STICKS[] PROGMEM = {${rows(
      sticks.map(
        ({ sensor, push, reversed, half }) => `{${sensor}, ${pushNames[push]}, ${Number(reversed)}, ${half}},`,
      ),
    )}};`,
    one('MOST_MM_PER_S', mmPerS),
    one('MOST_RAD_PER_S', radPerS),
  ];
}

const boundRows = (bounds: readonly Bound[], count: number): string[] => [
  '// Sums of joint values that stay between two others; some only while another sum is above a value.',
  'struct Bound {',
  '  float low, high, factors[STEERED_COUNT];',
  '  uint8_t isWhile;',
  '  float above, whenFactors[STEERED_COUNT];',
  '};',
  `static const Bound BOUNDS[] PROGMEM = {${rows(
    bounds.map(({ low, high, factors, when }) => {
      const condition = when ?? { above: 0, factors: Array.from({ length: count }, () => 0) };
      return `{${float(low)}, ${float(high)}, ${floats(factors)}, ${Number(when !== null)}, ${float(condition.above)}, ${floats(condition.factors)}},`;
    }),
  )}};`,
];
const stateRow = ({ at, joints, side, rotation }: SteeringState): string =>
  `{${floats(at)}, ${floats(joints)}, ${Number(side < 0)}${rotation ? `, ${floats(rotation)}` : ''}},`;

/** Of a wrist: its axes, what counts of the tool’s own frame, and cosines between them. */
function wristRows({ arm, axes, centre, tool0 }: SphericalArm): string[] {
  const inPlane = (v: Vec3): Vec3 => [vec3.dot(v, arm.e1), vec3.dot(v, arm.n), vec3.dot(v, arm.a0)];
  const inTool = (v: Vec3): Vec3 =>
    [0, 1, 2].map((c) => vec3.dot(axisOf(tool0, c as 0 | 1 | 2), v)) as unknown as Vec3;
  const [a4, a5, a6] = axes;
  const across = vec3.perpendicular(a6);
  const table = (name: string, v: Vec3): string => `static const float ${name}[] = ${floats([...v])};`;
  return [
    '// The wrist: its axes, one across the last of them, and the first two crossed, in the arm’s own axes; then in the tool’s.',
    table('AXIS_4', inPlane(a4)),
    table('AXIS_5', inPlane(a5)),
    table('AXIS_6', inPlane(a6)),
    table('ACROSS_6', inPlane(across)),
    table('CROSSED', inPlane(vec3.cross(a4, a5))),
    table('TOOL_6', inTool(a6)),
    table('TOOL_ACROSS', inTool(across)),
    table('TOOL_CENTRE', inMm(centre)),
    one('BETWEEN_4_5', vec3.dot(a4, a5)),
    one('BETWEEN_5_6', vec3.dot(a5, a6)),
  ];
}

function wayRows(way: Way): string[] {
  if (way.kind === 'delta') {
    const { delta, base, origin } = way;
    // Rows of what turns the world into the base: columns of the base’s own frame.
    const [x, y, z] = [0, 1, 2].map((c): Vec3 => [base[c], base[3 + c], base[6 + c]]);
    return [
      vector('ORIGIN', inMm(origin)),
      vector('BASE_X', x),
      vector('BASE_Y', y),
      vector('BASE_Z', z),
      one('RADIUS', delta.radius * MM_PER_M),
      one('UPPER_ARM', delta.upperArm * MM_PER_M),
      one('FOREARM', delta.forearm * MM_PER_M),
      `static const float COSINES[] PROGMEM = ${floats([...delta.cos])};`,
      `static const float SINES[] PROGMEM = ${floats([...delta.sin])};`,
    ];
  }
  const { arm, kind } = way;
  const { linkage, lead } = arm;
  const { shoulder, fixed, hand, l1, l2, phi1, phi2, inverse } = linkage;
  const [U, V] = [shoulder[0] + fixed[0], shoulder[1] + fixed[1]].map((m) => m * MM_PER_M);
  return [
    ...(way.kind === 'wrist' ? wristRows(way.form) : []),
    `#define BAR_COUNT ${linkage.slots.length}`,
    vector('FOOT', inMm(arm.c)),
    vector('UP', arm.a0),
    vector('OUT', arm.e1),
    vector('ASIDE', arm.n),
    one('LATERAL', arm.lateral * MM_PER_M),
    ...(kind === 'slide' && lead.kind === 'slide' ? [one('SLIDE', lead.slide)] : []),
    some('FIXED', { U, V }),
    ...(linkage.slots.length === 3 ? [some('HAND', { U: hand[0] * MM_PER_M, V: hand[1] * MM_PER_M })] : []),
    `static const float FIRST = ${float(l1 * MM_PER_M)}, SECOND = ${float(l2 * MM_PER_M)};`,
    `static const float FIRST_TURN = ${float(phi1)}, SECOND_TURN = ${float(phi2)};`,
    `static const uint8_t FROM_BARS[][BAR_COUNT] PROGMEM = {${rows(inverse.map((row) => `{${row.map((f) => f & 255).join(', ')}},`))}};`,
  ];
}
