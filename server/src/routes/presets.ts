/** Kinds of arm to begin with. */
import { z } from 'zod';
import { contractFindings, presetAnswer, presetBody, presetList } from '@cork-elbow/core/contract';
import { presets, rigFromPreset } from '@cork-elbow/core/presets';
import { faulty, type Api } from '../api';
import { apiError, refuse } from '../errors';

const { fault } = contractFindings;

export function presetRoutes(api: Api): void {
  api.get(
    '/api/presets',
    {
      schema: {
        tags: ['presets'],
        summary: 'Kinds of arm, and what is measured of each.',
        response: { 200: presetList },
      },
    },
    () => ({
      presets: presets.map(({ id, name, says, measures }) => ({
        ...{ id, name, says },
        measures: measures.map(({ key, label, unit, usual, min, max }) => ({ key, label, unit, usual, min, max })),
      })),
    }),
  );
  api.post(
    '/api/presets/:id',
    {
      schema: {
        tags: ['presets'],
        summary: 'The rig that measures make of a kind of arm; it is not put on the shelf.',
        params: z.strictObject({
          id: z
            .string()
            .describe('id of the kind of arm')
            .meta({ examples: ['servo-arm-4'] }),
        }),
        body: presetBody,
        response: { 200: presetAnswer, ...faulty(400, 404) },
      },
    },
    ({ params: { id }, body: { name, measures } }) => {
      const preset = presets.find((one) => one.id === id);
      if (!preset) throw apiError('not-found', { kind: 'preset', id });
      const faults = Object.entries(measures).flatMap(([key, value]) => {
        const known = preset.measures.find((measure) => measure.key === key);
        const path = `measures.${key}`;
        if (!known)
          return [fault('id-unknown', path, 'a measure of the preset', `“${key}”`, { id: key, kind: 'measure' })];
        const { min, max, unit } = known;
        return value >= min && value <= max
          ? []
          : [fault('measure-range', path, `${min} to ${max} ${unit}`, String(value), { got: value, min, max, unit })];
      });
      if (faults.length) refuse(faults);
      const made = rigFromPreset(preset, name, measures);
      return made.ok ? { rig: made.value } : refuse(made.faults);
    },
  );
}
