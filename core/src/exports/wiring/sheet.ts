/** The wiring of a rig as a sheet to print: every used pin of every board, what hangs on it, by which wire, on which supply. */
import { escapeXml, wrapText, type Sheet } from '../../drawing';
import type { Board, Rig } from '../../rig';
import { formatNumber } from '../../units/quantity';
import { wirePins } from '../../wiring';

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
    return [
      {
        title: `${jointsOf(drive.id) || 'no joint'}: ${drive.name}`,
        detail: [drive.model, drive.kind === 'bus-servo' ? `address ${drive.address}` : '', wire.note]
          .filter(Boolean)
          .join(', '),
        supply: rail ? `${rail.name}, ${formatNumber(rail.volts, 1)} V` : 'no supply given',
        colour: wire.colour,
        lines: wirePins(wire, drive.kind).map(({ pin, name }) => ({ pin, role: name })),
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

/** A piece of the sheet that is not broken over pages. */
interface Piece {
  readonly heightMm: number;
  /** Kept on one page with the piece after it: a heading. */
  readonly leads?: boolean;
  draw(y: number): string;
}

const text = (x: number, y: number, words: string, extra = ''): string =>
  `<text x="${x}" y="${y}"${extra}>${escapeXml(words)}</text>`;
/** Lines one under the other; `size` in mm. */
const lines = (x: number, y: number, all: readonly string[], size: number, extra = ''): string =>
  all.map((line, k) => text(x, y + k * size * LEADING, line, ` font-size="${size}"${extra}`)).join('');
const LEADING = 1.25;
const soft = ` fill="${SOFT}"`;
const TEXT = 3.5;
const SMALL = 2.6;
const across = WIDTH - 2 * MARGIN;

/** Words over the whole width. */
function paragraph(words: string, size: number, extra = '', leads = false): Piece {
  const all = wrapText(words, across, size);
  return {
    heightMm: all.length * size * LEADING + 1,
    leads,
    draw: (y) => lines(MARGIN, y + size, all, size, extra),
  };
}

function railPiece(rail: Rig['rails'][number]): Piece {
  const source = { supply: 'supply', battery: 'battery', board: 'board’s own regulator' }[rail.source];
  const figures = [
    `${formatNumber(rail.volts, 1)} V`,
    source,
    rail.amps ? `${formatNumber(rail.amps, 1)} A` : '',
    rail.fuseA ? `fuse ${formatNumber(rail.fuseA, 1)} A` : 'no fuse given',
    rail.groundJoined ? 'ground joined to the boards’' : 'ground NOT joined to the boards’',
  ];
  const all = wrapText(`${rail.name}: ${figures.filter(Boolean).join(', ')}`, across - 13, TEXT);
  return {
    heightMm: all.length * TEXT * LEADING + 1.5,
    draw: (y) =>
      `<path d="M${MARGIN} ${y + 2}h10" stroke="${inks.red}" stroke-width="0.9"/><path d="M${MARGIN} ${y + 3.4}h10" stroke="${INK}" stroke-width="0.9"/>` +
      lines(MARGIN + 13, y + TEXT, all, TEXT),
  };
}

/** One device on its pins: a slice of the board on the left, its wires, and the device. */
function devicePiece(board: Board, device: Device): Piece {
  const room = WIDTH - MARGIN - DEVICES - 5;
  const title = wrapText(device.title, room, TEXT);
  const detail = wrapText([device.detail, device.supply].filter(Boolean).join('; '), room, SMALL);
  const words = title.length * TEXT * LEADING + detail.length * SMALL * LEADING + 2.5;
  const wires = device.lines.map(({ pin, role }) => ({
    label: wrapText(board.pins.find((p) => p.pin === pin)?.label ?? `${pin} (not there)`, PINS - MARGIN - 5, TEXT),
    words: wrapText([role, device.colour].filter(Boolean).join(', '), DEVICES - PINS - 6, SMALL),
  }));
  const heights = wires.map((w) =>
    Math.max(ROW, w.label.length * TEXT * LEADING + 2, w.words.length * SMALL * LEADING + 4.5),
  );
  const heightMm = Math.max(
    words + 1,
    heights.reduce((sum, h) => sum + h, 0),
  );
  return {
    heightMm,
    draw(y) {
      const ink = inks[device.colour.trim().toLowerCase()] ?? INK;
      let row = y;
      const drawn = wires.map(({ label, words: said }, k) => {
        const at = row + heights[k] / 2;
        row += heights[k];
        return (
          lines(PINS - 3, at + 1 - ((label.length - 1) * TEXT * LEADING) / 2, label, TEXT, ' text-anchor="end"') +
          `<circle cx="${PINS}" cy="${at}" r="0.8" fill="${INK}"/>` +
          `<path d="M${PINS} ${at}H${DEVICES}" stroke="${ink}" stroke-width="${device.colour ? 0.9 : 0.4}" fill="none"/>` +
          // One line stands over the wire, more go on under it.
          text(PINS + 3, at - 1, said[0], ` font-size="${SMALL}"${soft}`) +
          lines(PINS + 3, at + 3.2, said.slice(1), SMALL, soft)
        );
      });
      return (
        `<path d="M${MARGIN} ${y}v${heightMm}M${PINS} ${y}v${heightMm}" stroke="${INK}" stroke-width="0.4"/>` +
        drawn.join('') +
        `<rect x="${DEVICES}" y="${y + 0.5}" width="${WIDTH - MARGIN - DEVICES}" height="${heightMm - 1}" fill="none" stroke="${INK}" stroke-width="0.25" rx="0.8"/>` +
        lines(DEVICES + 2.5, y + 0.7 + TEXT, title, TEXT) +
        lines(DEVICES + 2.5, y + 0.7 + title.length * TEXT * LEADING + SMALL, detail, SMALL, soft)
      );
    },
  };
}

/** The line that opens or closes the board's outline. */
const rule = (leads: boolean): Piece => ({
  heightMm: 0.6,
  leads,
  draw: (y) => `<path d="M${MARGIN} ${y}H${PINS}" stroke="${INK}" stroke-width="0.4"/>`,
});

function piecesOf(rig: Rig): Piece[] {
  const pieces = [
    paragraph(`${rig.name}: wiring`, 6, ' font-weight="700"', true),
    paragraph(
      'Unplug the supply before wiring. Mind polarity. Work on mains wiring is for a qualified electrician.',
      3,
      soft,
    ),
    ...rig.rails.map(railPiece),
  ];
  for (const board of rig.boards) {
    const host = rig.boards.find((b) => b.id === board.host);
    const address = board.address === null ? '' : `, address ${board.address} (0x${board.address.toString(16)})`;
    const devices = devicesOf(rig, board);
    pieces.push(
      { heightMm: 3, leads: true, draw: () => '' },
      paragraph(board.name, 4, ' font-weight="700"', true),
      ...(host ? [paragraph(`on the bus of ${host.name}${address}`, 3, soft, true)] : []),
      rule(true),
      ...(devices.length
        ? devices.map((d, k) => ({ ...devicePiece(board, d), leads: k === devices.length - 1 }))
        : [paragraph('Nothing is wired to it.', 3, soft, true)]),
      rule(false),
    );
  }
  const loose = rig.drives.filter((d) => !rig.wiring.some((w) => w.drive === d.id)).map((d) => d.name);
  if (loose.length) pieces.push(paragraph(`Not wired yet: ${loose.join(', ')}.`, TEXT));
  return pieces;
}

/**
 * The wiring on sheets at most so high (mm), as wide as an A4 page without its margins; no device is broken over two, and no
 * heading is left alone.
 */
export function wiringSheets(rig: Rig, mostMm = Infinity): Sheet[] {
  // What is kept together: headings with the piece after them.
  const groups: Piece[][] = [];
  let open = false;
  for (const piece of piecesOf(rig)) {
    if (open) groups.at(-1)!.push(piece);
    else groups.push([piece]);
    open = piece.leads ?? false;
  }
  const sheets: { parts: string[]; y: number }[] = [];
  for (const group of groups) {
    const height = group.reduce((sum, p) => sum + p.heightMm, 0);
    let sheet = sheets.at(-1);
    if (!sheet || (sheet.y + height + MARGIN > mostMm && sheet.y > MARGIN))
      sheets.push((sheet = { parts: [], y: MARGIN }));
    for (const piece of group) {
      sheet.parts.push(piece.draw(sheet.y));
      sheet.y += piece.heightMm;
    }
  }
  return sheets.map(({ parts, y }, k) => {
    const heightMm = Math.ceil(y + MARGIN);
    const foot =
      sheets.length > 1
        ? text(
            WIDTH - MARGIN,
            heightMm - 3,
            `${rig.name}: wiring, page ${k + 1} of ${sheets.length}`,
            ` font-size="${SMALL}"${soft} text-anchor="end"`,
          )
        : '';
    return {
      widthMm: WIDTH,
      heightMm,
      content:
        `<rect width="${WIDTH}" height="${heightMm}" fill="#ffffff"/>` +
        `<g fill="${INK}" font-family="sans-serif" font-size="${TEXT}">${parts.join('')}${foot}</g>`,
    };
  });
}
