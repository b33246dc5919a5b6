/** How a link is said in a few words. */
import type { LinkOptions } from '@cork-elbow/core/contract';
import { formatNumber } from '@cork-elbow/core/units';

type Simulated = Extract<LinkOptions, { kind: 'simulated' }>;

/** What is not ideal about a simulated board; empty where nothing is. */
export function imperfections({
  ppm,
  delayMs,
  jitterMs,
  lostShare,
  doubledShare,
  astray,
  load,
  weight,
  heldG,
  slop,
  noise,
  sensorOff,
  supplyV,
  supplyOhm,
  resetV,
}: Simulated): string {
  return [
    ppm ? `its clock ${formatNumber(Math.abs(ppm) / 1e4, 3)} % ${ppm > 0 ? 'fast' : 'slow'}` : '',
    delayMs || jitterMs
      ? `${formatNumber(delayMs ?? 0, 0)}${jitterMs ? `–${formatNumber((delayMs ?? 0) + jitterMs, 0)}` : ''} ms on the way`
      : '',
    lostShare ? `${formatNumber(100 * lostShare, 2)} % of the bytes lost` : '',
    doubledShare ? `${formatNumber(100 * doubledShare, 2)} % doubled` : '',
    load ? `motors loaded by ${formatNumber(100 * load, 0)} %` : '',
    weight
      ? `its weight${weight === 1 ? '' : ` × ${formatNumber(weight, 2)}`} on the motors${heldG ? `, with ${formatNumber(heldG, 0)} g` : ''}`
      : '',
    slop ? `joints with play of ${formatNumber(slop, 2)}` : '',
    noise ? `sensors scatter by ${formatNumber(noise, 0)} counts` : '',
    sensorOff ? `sensors off by ${formatNumber(sensorOff, 1)}` : '',
    supplyV
      ? `supply of ${formatNumber(supplyV, 1)} V behind ${formatNumber(supplyOhm ?? 0.1, 2)} Ω, anew below ${formatNumber(resetV ?? 0, 1)} V`
      : '',
    astray ? `joints up to ${formatNumber(astray, 1)} off` : '',
  ]
    .filter(Boolean)
    .join(', ');
}

export function linkWords(link: LinkOptions): string {
  return wayWords(link) + (link.lines ? '; lines of its own' : '');
}
function wayWords(link: LinkOptions): string {
  switch (link.kind) {
    case 'simulated':
      return ['simulated in this program', imperfections(link)].filter(Boolean).join(': ');
    case 'tcp':
      return `${link.host}, port ${link.port}`;
    case 'serial':
      return `${link.path} at ${formatNumber(link.baud, 0)} baud`;
  }
}
