/** What the shelf does with rigs: it draws them, and reads and names their files. */
import { admit, standing } from '@cork-elbow/core/admit';
import { drawRig, type Drawing } from '@cork-elbow/core/drawing';
import { faultSentence, fileName, MAX_RIG_BYTES, type Rig } from '@cork-elbow/core/rig';

export { fileName };

/** The arm at rest from the side; null where it cannot stand. */
export function sketch(rig: Rig): Drawing | null {
  const stands = standing(rig);
  if (!stands.ok) return null;
  const { mechanism } = stands;
  const size = { width: 320, height: 230 };
  return drawRig({ rig, mechanism, q: mechanism.home, kind: 'side', ...size, bare: true, fit: 'pose', spots: false });
}

/** The rig in a file, or what is wrong with it in a sentence. */
export async function readRigFile(file: File): Promise<{ readonly rig: Rig } | { readonly problem: string }> {
  // Said before anything is read: a document may have no more when it is saved.
  if (file.size > 2 * MAX_RIG_BYTES)
    return { problem: `“${file.name}” is larger than the ${MAX_RIG_BYTES / 2 ** 20} MB that a rig may have.` };
  let content: unknown;
  try {
    content = JSON.parse(await file.text());
  } catch {
    return { problem: `“${file.name}” is not a rig file: it holds no valid JSON.` };
  }
  const parsed = admit(content);
  return parsed.ok ? parsed : { problem: `“${file.name}”: ${faultSentence(content, parsed.faults[0])}` };
}
