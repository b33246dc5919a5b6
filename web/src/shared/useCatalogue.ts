/** The catalogue of motors: the one that ships, and the person's own, kept on the server of this computer. */
import { computed, ref, shallowRef } from 'vue';
import { catalogue } from '@cork-elbow/core/actuators';
import {
  CATALOGUE_FORMAT,
  catalogueFileSchema,
  freeId,
  type CatalogueEntry,
  type Drive,
  type DriveFigures,
} from '@cork-elbow/core/rig';
import { faultsOf } from '@cork-elbow/core/findings';
import { CallError } from '../api';
import { motorsApi } from '../api-motors';

const own = shallowRef<readonly CatalogueEntry[]>([]);
const problem = ref('');
let isLoaded = false;

async function attempt(work: () => Promise<readonly CatalogueEntry[]>): Promise<void> {
  try {
    own.value = await work();
    problem.value = '';
  } catch (error) {
    problem.value = error instanceof CallError ? error.message : (error as Error).message;
  }
}

/** An id of letters, digits and dashes from words. */
const idOf = (words: string): string =>
  words
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 30) || 'motor';

export function useCatalogue() {
  if (!isLoaded) {
    isLoaded = true;
    void attempt(motorsApi.motors);
  }
  const entries = computed(() => [...own.value, ...catalogue]);
  const find = (id: string): CatalogueEntry | undefined => entries.value.find((e) => e.id === id);

  function keep(drive: Drive): Promise<void> {
    const { id: _id, name: _name, ...figures } = drive;
    const words = drive.model || drive.name;
    const same = own.value.find((e) => e.words === words);
    const id =
      same?.id ??
      freeId(
        `own-${idOf(words)}`,
        entries.value.map((e) => e.id),
      );
    return attempt(() => motorsApi.putMotors([{ id, words, figures: figures as DriveFigures }]));
  }
  const remove = (id: string): Promise<void> =>
    attempt(async () => {
      await motorsApi.removeMotor(id);
      return motorsApi.motors();
    });
  const asText = (): string =>
    JSON.stringify({ format: CATALOGUE_FORMAT, version: 1, motors: own.value }, null, 2) + '\n';
  /** Takes a file of motors; nothing is taken where any of it is wrong. */
  function importText(text: string): Promise<void> {
    return attempt(() => {
      let input: unknown;
      try {
        input = JSON.parse(text);
      } catch {
        throw new Error('This is not a file of motors: it is not JSON. Choose one that was exported here.');
      }
      const parsed = catalogueFileSchema.safeParse(input);
      if (!parsed.success)
        throw new Error(`No motor was taken: ${faultsOf(parsed.error, input, 'the file')[0].message}`);
      if (!parsed.data.motors.length) throw new Error('There is no motor in this file.');
      return motorsApi.putMotors(parsed.data.motors);
    });
  }
  return { own, entries, find, keep, remove, asText, importText, problem };
}
