import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { catalogueEntrySchema, describeFields, factSchema, fieldWords, rigSchema } from './index';

const documents = { rig: rigSchema, motor: catalogueEntrySchema, fact: factSchema };
const schemaOf = (schema: z.ZodType) => z.toJSONSchema(schema, { unrepresentable: 'any', io: 'input' }) as never;

describe('words for the fields of documents', () => {
  it.each(Object.entries(documents))('are there for every field of a %s', (_, schema) => {
    expect(describeFields(schemaOf(schema))).toEqual([]);
  });
  it('are none for a field that is not there any more', () => {
    const names = new Set<string>();
    const walk = (part: unknown, held: string): void => {
      if (typeof part !== 'object' || part === null) return;
      for (const [key, value] of Object.entries(part)) {
        if (key === 'properties')
          for (const [name, field] of Object.entries(value as object)) {
            names.add(name).add(`${held}.${name}`);
            walk(field, name);
          }
        else walk(value, held);
      }
    };
    for (const schema of Object.values(documents)) walk(schemaOf(schema), '');
    expect([...fieldWords.keys()].filter((name) => !names.has(name))).toEqual([]);
  });
  it('say nothing in place of what a schema says itself', () => {
    const schema = { properties: { massG: { description: 'own' }, hz: {}, other: {}, kind: { const: 'box' } } };
    expect(describeFields(schema, 'thing')).toEqual(['thing.other']);
    expect(schema.properties).toEqual({
      massG: { description: 'own' },
      hz: { description: fieldWords.get('hz') },
      other: {},
      kind: { const: 'box' },
    });
  });
  it('name the unit that the field’s own name has', () => {
    const units: readonly [RegExp, RegExp][] = [
      [/Mm$/, /\bmm\b/],
      [/Us$/, /µs/],
      [/Deg$/, /°/],
      [/[a-z]Hz$/, /second|Hz/],
      [/Ms$/, /\bms\b/],
      [/[a-z]A$/, /\bA\b/],
      [/[a-z]Nm$/, /N·m/],
    ];
    for (const [name, said] of fieldWords)
      for (const [ending, unit] of units)
        if (ending.test(name)) expect([name, said]).toEqual([name, expect.stringMatching(unit)]);
  });
});
