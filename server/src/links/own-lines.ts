/** A link over which a board is sent lines of the builder's own: the protocol's bytes on this side, text on the other. */
import { isSpin, nativeAt } from '@cork-elbow/core/actuators';
import { lineMotors, linePlaces } from '@cork-elbow/core/commands';
import type { LinkOptions } from '@cork-elbow/core/contract';
import {
  lineBaud,
  LinePlayer,
  motorTexts,
  ownLinesOf,
  readTemplate,
  unspoken,
  valuesLine,
  type LineTemplate,
  type Parts,
} from '@cork-elbow/core/own-lines';
import type { LineEnd, Link } from './link';

/** A line longer than this share of what its speed carries is not begun with: pauses between bytes count too. */
const FULLEST = 0.9;

/** `inner` carries the text; `startMs`: the loop's clock as it opens. */
export function ownLinesLink(inner: Link, end: LineEnd, options: LinkOptions, startMs: number): Link {
  const template = options.lines!;
  const read = readTemplate(template);
  if (!read.ok) return failed(inner, `lines: ${read.message}`);
  const parts = read.value;
  const motors = lineMotors(end.maps);
  const restAt = end.maps.map((map) => (isSpin(map) ? map.stopUs : (nativeAt(map, end.mechanism, end.rest) ?? 0)));
  const why = unspoken(parts, motors) ?? overfull(template, parts, options, end, restAt);
  if (why) return failed(inner, why);
  let { channels, maps } = end;
  const outputs = end.signals.filter(({ signal }) => signal.way === 'out');
  const player = new LinePlayer(
    template,
    parts,
    end.pins,
    motors,
    restAt,
    outputs.map(({ channel, signal }) => ({ channel, id: signal.id })),
    (natives) => linePlaces(channels, maps, end.rest, natives),
  );
  const text = new TextEncoder();
  const flush = (): void => {
    for (const line of player.lines()) inner.write(text.encode(line));
  };
  let lived = Math.round(startMs * 1000);
  return {
    name: inner.name,
    ownLines: ownLinesOf(template, parts),
    get failure() {
      return inner.failure ?? player.failure;
    },
    patienceMs: inner.patienceMs,
    write(bytes) {
      player.write(bytes);
      flush();
    },
    // Nobody stands in for a board that is not there yet.
    read: () => (inner.isOpen === false ? [] : player.read()),
    advanceTo(now) {
      inner.advanceTo(now);
      for (const bytes of inner.read()) player.hear(bytes);
      const until = Math.round(now * 1000);
      if (until > lived) player.advance(until - lived);
      lived = Math.max(lived, until);
      flush();
    },
    close: () => inner.close(),
    setChannels(changed) {
      const now = changed.on(end.board);
      channels = changed;
      maps = maps.map((map) => now.find(({ channel }) => channel === map.channel) ?? map);
    },
    ...(inner.trouble ? { trouble: (kind, channel, by) => inner.trouble!(kind, channel, by) } : {}),
  };
}

/** Why a line's speed does not carry so many lines, where it is known. */
function overfull(
  template: LineTemplate,
  parts: Parts,
  options: LinkOptions,
  { channels, maps, rest }: LineEnd,
  restAt: readonly number[],
): string | null {
  if (options.kind !== 'serial') return null;
  const texts = motorTexts(parts, lineMotors(maps), linePlaces(channels, maps, rest, restAt));
  const line = valuesLine(template, parts, texts, { ms: 1000 / template.perS, line: 0, time: 0 });
  const baud = lineBaud(template, line.length);
  return baud <= FULLEST * options.baud
    ? null
    : `${template.perS} lines a second of ${line.length} letters take ${Math.ceil(baud)} baud, more than ${options.baud} carry: fewer lines, or shorter ones`;
}

const failed = (inner: Link, failure: string): Link => {
  inner.close();
  return { ...{ name: inner.name, failure, patienceMs: inner.patienceMs }, ...idle };
};
const idle = { write: () => undefined, read: () => [], advanceTo: () => undefined, close: () => undefined };
