/** All layers of the 3D view. A new kind is a file and a line here. */
import { beats } from './beats';
import { frames } from './frames';
import { ghosts } from './ghosts';
import { hits } from './hits';
import type { Layer3d } from './layer';
import { payloads } from './payloads';
import { shell } from './shell';
import { blur } from './blur';
import { standing } from './standing';
import { target } from './target';
import { trace } from './trace';

export const layers3d: readonly Layer3d[] = [
  ghosts,
  shell,
  payloads,
  trace,
  beats,
  hits,
  standing,
  blur,
  target,
  frames,
];
