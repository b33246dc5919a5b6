/** The drawings of a preset with its letters, for measures as they stand in the form. */
import { drawRig, guideLetters, guidePose, guideViews, type Drawing } from '@cork-elbow/core/drawing';
import { faultSentence } from '@cork-elbow/core/rig';
import { admitPreset, type DrawnView, type Measured, type Preset } from '@cork-elbow/core/presets';

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
  const made = admitPreset(preset, preset.name, measures);
  if (!made.ok) return { ok: false, message: faultSentence(null, made.faults[0]) };
  const { rig, mechanism } = made;
  const q = guidePose(preset, mechanism);
  return {
    ok: true,
    drawings: guideViews(preset).map((kind, i) =>
      drawRig({
        rig,
        mechanism,
        q,
        kind,
        fit: 'pose',
        letters: guideLetters(preset, rig, mechanism, kind),
        ...size(kind, i),
      }),
    ),
  };
}

/** A small drawing without letters. */
export function thumbnail(preset: Preset): Drawing | null {
  const made = admitPreset(preset, preset.name);
  if (!made.ok) return null;
  return drawRig({
    rig: made.rig,
    mechanism: made.mechanism,
    q: guidePose(preset, made.mechanism),
    kind: guideViews(preset)[0],
    fit: 'pose',
    bare: true,
    width: 200,
    height: 150,
  });
}
