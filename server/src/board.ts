/** A simulated board as a process of its own: the same as inside the server, behind a TCP port. See docs/protocol.md. */
import { readFileSync } from 'node:fs';
import { createServer, type Socket } from 'node:net';
import { parseArgs } from 'node:util';
import { linkOptions } from '@cork-elbow/core/contract';
import { faultsOf } from '@cork-elbow/core/findings';
import { admit } from '@cork-elbow/core/admit';
import { confirmedLimits } from '@cork-elbow/core/mechanism';
import { demoRigs } from '@cork-elbow/demo';
import { simulatedLink, type Imperfect } from './links/simulated';
import { lineEnds } from './run/line-ends';
import type { LineEnd } from './links/link';

/** Switches that say what is not ideal, and how each is called inside. */
const traits = {
  'clock-ppm': 'ppm',
  'delay-ms': 'delayMs',
  'jitter-ms': 'jitterMs',
  'lost-share': 'lostShare',
  'doubled-share': 'doubledShare',
  'buffer-bytes': 'bufferBytes',
  'loop-ms': 'loopMs',
  astray: 'astray',
  load: 'load',
  weight: 'weight',
  'held-g': 'heldG',
  slop: 'slop',
  noise: 'noise',
  'sensor-off': 'sensorOff',
  'supply-v': 'supplyV',
  'supply-ohm': 'supplyOhm',
  'reset-v': 'resetV',
  seed: 'seed',
} as const;

function refuse(sentence: string): never {
  console.error(sentence);
  process.exit(1);
}

function settings() {
  const text = { type: 'string' } as const;
  const names = ['rig', 'board', 'build', 'host', 'port', 'lines', ...Object.keys(traits)];
  try {
    const options = Object.fromEntries(names.map((name) => [name, text]));
    return parseArgs({ options }).values as Partial<Record<string, string>>;
  } catch (error) {
    const [first] = (error as Error).message.split('. ');
    return refuse(`${first}. Switches: ${names.map((name) => `--${name}`).join(' ')}.`);
  }
}

/** A rig that is at its first revision, as those of the demo are. */
const FIRST = 1;
/** The rig of the demo with this id, or what stands in the file of this name; and at which revision. */
function document(rig: string): { rig: unknown; revision: number } {
  const demo = demoRigs();
  const known = demo.find(({ id }) => id === rig);
  if (known) return { rig: known.rig, revision: FIRST };
  try {
    const read = JSON.parse(readFileSync(rig, 'utf8')) as { rig?: unknown; revision?: unknown };
    return { rig: read.rig ?? read, revision: Number.isInteger(read.revision) ? Number(read.revision) : FIRST };
  } catch (error) {
    return refuse(
      `“${rig}” is neither a rig of the demo (${demo.map(({ id }) => id).join(', ')}) nor a file with one: ` +
        `${(error as Error).message}.`,
    );
  }
}

function endsOf(rig: string, buildId: string | undefined, board: string | undefined): LineEnd[] {
  const { rig: read, revision } = document(rig);
  const admitted = admit(read, buildId);
  if (!admitted.ok) return refuse(admitted.faults[0].message);
  const { rig: is, mechanism, build } = admitted;
  const { ends } = lineEnds(is, confirmedLimits(mechanism, build), build, revision);
  const wished = ends.filter((end) => board === undefined || end.board === board);
  if (wished.length) return wished;
  const ids = ends.map((end) => end.board).join(', ');
  return refuse(
    ends.length ? `There is no board “${board}” with a line of its own; there are ${ids}.` : 'This rig has no board.',
  );
}

/** What stands in a file, such as a template of lines. */
function readJson(path: string): unknown {
  try {
    return JSON.parse(readFileSync(path, 'utf8'));
  } catch (error) {
    return refuse(`“${path}” holds no template of lines: ${(error as Error).message}.`);
  }
}

function imperfect(values: Partial<Record<string, string>>): Imperfect {
  const given = Object.entries(traits).filter(([name]) => values[name] !== undefined);
  for (const [name] of given)
    if (!Number.isFinite(Number(values[name]))) refuse(`--${name} is “${values[name]}”; a number is allowed.`);
  const input = {
    ...{ kind: 'simulated', ...(values.lines === undefined ? {} : { lines: readJson(values.lines) }) },
    ...Object.fromEntries(given.map(([name, key]) => [key, Number(values[name])])),
  };
  const parsed = linkOptions.safeParse(input);
  if (!parsed.success) {
    const [{ message }] = faultsOf(parsed.error, input, 'the switches');
    return refuse(message);
  }
  return parsed.data as Imperfect;
}

/** Whole ms between two looks at the clock. */
const BEAT = 1;

/** One board: its motors live on while nobody is connected, as those of a real one do. */
function serve(end: LineEnd, host: string, port: number, traits: Imperfect): void {
  const link = simulatedLink(end, performance.now(), traits);
  let reader: Socket | null = null;
  const live = (): void => {
    link.advanceTo(performance.now());
    for (const bytes of link.read()) reader?.write(bytes);
  };
  setInterval(live, BEAT);
  const server = createServer({ noDelay: true }, (socket) => {
    // A line has one computer at its other end.
    if (reader) return void socket.end();
    reader = socket;
    socket.on('data', (bytes) => {
      link.advanceTo(performance.now());
      link.write(bytes);
      live();
    });
    socket.on('error', () => socket.destroy());
    socket.on('close', () => (reader = null));
  });
  server.on('error', ({ code, message }: NodeJS.ErrnoException) =>
    refuse(code === 'EADDRINUSE' ? `Port ${port} is taken by another program; choose another --port.` : message),
  );
  server.listen(port, host, () => {
    const at = server.address() as { port: number };
    console.log(`${end.name} (${end.board}): ${host}:${at.port}`);
    process.send?.({ board: end.board, port: at.port });
  });
}

const values = settings();
const port = Number(values.port ?? 7010);
const ends = endsOf(values.rig ?? 'tile-dipper', values.build, values.board);
if (!Number.isInteger(port) || port < 0 || port + ends.length > 65_536)
  refuse(`--port is “${values.port}”; a whole number from 0 to 65535 is allowed.`);
const is = imperfect(values);
ends.forEach((end, k) => serve(end, values.host ?? '127.0.0.1', port && port + k, is));
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => process.exit(0));
process.once('disconnect', () => process.exit(0));
