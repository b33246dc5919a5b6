/** The drawings of a preset with its letters, for measures as they stand in the form. */
import { drawRig, guideLetters, guidePose, guideViews, type Drawing } from '@cork-elbow/core/drawing';
import { compile } from '@cork-elbow/core/mechanism';
import { faultSentence } from '@cork-elbow/core/rig';
import { rigFromPreset, type DrawnView, type Measured, type Preset } from '@cork-elbow/core/presets';

export interface GuideSize {
  readonly width: number;
  readonly height: number;
}

/** One drawing a view, or the sentence that says why these measures make no arm. */
export function guideDrawings(
  preset: Preset,
  measures: Measured,
  size: (view: DrawnView, index: number) => GuideSize,
): { ok: true; drawings: Drawing[] } | { ok: false; message: string } {
  const made = rigFromPreset(preset, preset.name, measures);
  if (!made.ok) return { ok: false, message: faultSentence(null, made.faults[0]) };
  const compiled = compile(made.value.mechanism);
  if (!compiled.ok) return { ok: false, message: faultSentence(null, compiled.faults[0]) };
  const { mechanism } = compiled;
  const q = guidePose(preset, mechanism);
  return {
    ok: true,
    drawings: guideViews(preset).map((kind, i) =>
      drawRig({
        rig: made.value,
        mechanism,
        q,
        kind,
        fit: 'pose',
        letters: guideLetters(preset, made.value, mechanism, kind),
        ...size(kind, i),
      }),
    ),
  };
}

/** A small drawing without letters. */
export function thumbnail(preset: Preset): Drawing | null {
  const made = rigFromPreset(preset, preset.name);
  const compiled = made.ok ? compile(made.value.mechanism) : null;
  if (!made.ok || !compiled?.ok) return null;
  return drawRig({
    rig: made.value,
    mechanism: compiled.mechanism,
    q: guidePose(preset, compiled.mechanism),
    kind: guideViews(preset)[0],
    fit: 'pose',
    bare: true,
    width: 200,
    height: 150,
  });
}
