/** The wiring of a rig as a sheet to print: every used pin of every board, what hangs on it, by which wire, on which supply. */
import { escapeXml } from './drawing/shapes';
import type { Board, Rig } from '../rig';
import { formatNumber } from '../units/quantity';

const WIDTH = 190;
const MARGIN = 8;
const ROW = 9;
/** Where the board's pins end, wires end and devices begin (mm). */
const PINS = 48;
const DEVICES = 92;
const INK = '#1f2a2a';
const SOFT = '#5f6763';

/** Inks for wires whose colour is written in plain words. */
const inks: Record<string, string> = {
  black: '#1f2a2a',
  brown: '#7a4a21',
  red: '#a3260f',
  orange: '#c8641b',
  yellow: '#b8920f',
  green: '#3f7a2b',
  blue: '#2b5c94',
  violet: '#6a4a7d',
  grey: '#7d857f',
  white: '#b9b4a6',
  pink: '#c2687f',
};

interface Line {
  readonly pin: number;
  readonly role: string;
}
interface Device {
  readonly title: string;
  readonly detail: string;
  readonly supply: string;
  readonly colour: string;
  readonly lines: readonly Line[];
}

/** Everything on a board, in the order of its first pin. */
function devicesOf(rig: Rig, board: Board): Device[] {
  const jointsOf = (drive: string): string =>
    rig.transmissions
      .filter((t) => (t.drives as readonly string[]).includes(drive))
      .flatMap((t): string[] => [...t.joints])
      .map((id) => rig.mechanism.joints.find((j) => j.id === id)?.name ?? id)
      .join(' and ');
  const wires = rig.wiring.flatMap((wire): Device[] => {
    const drive = rig.drives.find((d) => d.id === wire.drive);
    if (!drive || wire.board !== board.id) return [];
    const rail = rig.rails.find((r) => r.id === wire.rail);
    const roles = {
      servo: 'pulse',
      'continuous-servo': 'pulse',
      'bus-servo': 'bus',
      stepper: 'step',
      'dc-encoder': 'duty',
    };
    return [
      {
        title: `${jointsOf(drive.id) || 'no joint'}: ${drive.name}`,
        detail: [drive.model, drive.kind === 'bus-servo' ? `address ${drive.address}` : '', wire.note]
          .filter(Boolean)
          .join(', '),
        supply: rail ? `${rail.name}, ${formatNumber(rail.volts, 1)} V` : 'no supply given',
        colour: wire.colour,
        lines: [
          { pin: wire.channel, role: roles[drive.kind] },
          ...(wire.direction === undefined ? [] : [{ pin: wire.direction, role: 'direction' }]),
          ...(wire.enable === undefined ? [] : [{ pin: wire.enable, role: 'enable' }]),
        ],
      },
    ];
  });
  const signals = rig.signals.flatMap((s): Device[] => {
    if (s.board !== board.id || s.channel === null) return [];
    const level = s.activeLow === null ? 'polarity not found out' : s.activeLow ? 'on when low' : 'on when high';
    const pull = s.pull === 'none' ? '' : `resistor that pulls ${s.pull}`;
    return [
      {
        title: s.name,
        detail: [s.way === 'in' ? 'input' : 'output', level, pull, s.note].filter(Boolean).join(', '),
        supply: '',
        colour: '',
        lines: [{ pin: s.channel, role: s.way === 'in' ? 'in' : 'out' }],
      },
    ];
  });
  const sensors = rig.sensors.flatMap((s): Device[] => {
    if (s.board !== board.id || s.channel === null) return [];
    const bus =
      s.address === null ? '' : `address ${s.address}${s.port === null ? '' : `, multiplexer port ${s.port}`}`;
    return [
      {
        title: s.name,
        detail: [s.kind.replace('-', ' '), bus, s.note].filter(Boolean).join(', '),
        supply: '',
        colour: '',
        lines: [{ pin: s.channel, role: s.address === null ? 'reading' : 'bus' }],
      },
    ];
  });
  return [...wires, ...signals, ...sensors].sort((a, b) => a.lines[0].pin - b.lines[0].pin);
}

/** SVG in mm, as wide as an A4 page without its margins; as long as the wiring is. */
export function wiringSheet(rig: Rig): string {
  const parts: string[] = [];
  const text = (x: number, y: number, words: string, extra = ''): void =>
    void parts.push(`<text x="${x}" y="${y}"${extra}>${escapeXml(words)}</text>`);
  const soft = ` fill="${SOFT}" font-size="3"`;
  let y = MARGIN + 6;
  text(MARGIN, y, `${rig.name}: wiring`, ' font-size="6" font-weight="700"');
  y += 5;
  text(
    MARGIN,
    y,
    'Unplug the supply before wiring. Mind polarity. Work on mains wiring is for a qualified electrician.',
    soft,
  );
  y += 6;
  for (const rail of rig.rails) {
    const source = { supply: 'supply', battery: 'battery', board: 'board’s own regulator' }[rail.source];
    const figures = [
      `${formatNumber(rail.volts, 1)} V`,
      source,
      rail.amps ? `${formatNumber(rail.amps, 1)} A` : '',
      rail.fuseA ? `fuse ${formatNumber(rail.fuseA, 1)} A` : 'no fuse given',
      rail.groundJoined ? 'ground joined to the boards’' : 'ground NOT joined to the boards’',
    ];
    parts.push(
      `<path d="M${MARGIN} ${y - 1}h10" stroke="${inks.red}" stroke-width="0.9"/><path d="M${MARGIN} ${y + 0.4}h10" stroke="${INK}" stroke-width="0.9"/>`,
    );
    text(MARGIN + 13, y + 0.8, `${rail.name}: ${figures.filter(Boolean).join(', ')}`);
    y += 5.5;
  }
  for (const board of rig.boards) {
    const devices = devicesOf(rig, board);
    const rows = devices.reduce((sum, d) => sum + d.lines.length, 0);
    y += 3;
    const host = rig.boards.find((b) => b.id === board.host);
    text(MARGIN, y + 3, board.name, ' font-weight="700" font-size="4"');
    if (host)
      text(
        DEVICES,
        y + 3,
        `on the bus of ${host.name}${board.address === null ? '' : `, address ${board.address}`}`,
        soft,
      );
    y += 5.5;
    const height = Math.max(1, rows) * ROW + 2;
    parts.push(
      `<rect x="${MARGIN}" y="${y}" width="${PINS - MARGIN}" height="${height}" fill="none" stroke="${INK}" stroke-width="0.4" rx="1"/>`,
    );
    if (!rows) text(MARGIN + 3, y + 5.5, 'Nothing is wired to it.', soft);
    let row = y + 1;
    for (const device of devices) {
      const top = row;
      for (const { pin, role } of device.lines) {
        const at = row + ROW / 2;
        const label = board.pins.find((p) => p.pin === pin)?.label ?? `${pin} (not there)`;
        const ink = inks[device.colour.trim().toLowerCase()] ?? INK;
        text(PINS - 3, at + 1, label, ' text-anchor="end"');
        parts.push(
          `<circle cx="${PINS}" cy="${at}" r="0.8" fill="${INK}"/>` +
            `<path d="M${PINS} ${at}H${DEVICES}" stroke="${ink}" stroke-width="${device.colour ? 0.9 : 0.4}" fill="none"/>`,
        );
        text(PINS + 3, at - 1, [role, device.colour].filter(Boolean).join(', '), soft);
        row += ROW;
      }
      const tall = row - top;
      parts.push(
        `<rect x="${DEVICES}" y="${top + 0.5}" width="${WIDTH - MARGIN - DEVICES}" height="${tall - 1}" fill="none" stroke="${INK}" stroke-width="0.25" rx="0.8"/>`,
      );
      text(DEVICES + 2.5, top + 4.2, device.title);
      text(
        DEVICES + 2.5,
        top + 7.4,
        [device.detail, device.supply].filter(Boolean).join('; '),
        ` fill="${SOFT}" font-size="2.6"`,
      );
    }
    y += height;
  }
  const loose = rig.drives.filter((d) => !rig.wiring.some((w) => w.drive === d.id)).map((d) => d.name);
  if (loose.length) {
    y += 6;
    text(MARGIN, y, `Not wired yet: ${loose.join(', ')}.`);
  }
  const height = Math.ceil(y + MARGIN);
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH}mm" height="${height}mm" viewBox="0 0 ${WIDTH} ${height}">` +
    `<rect width="${WIDTH}" height="${height}" fill="#ffffff"/>` +
    `<g fill="${INK}" font-family="sans-serif" font-size="3.5">${parts.join('')}</g></svg>`
  );
}
