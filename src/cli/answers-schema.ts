/** The published JSON Schema of what `--json` answers. */
import * as z from 'zod';
import { ANSWERS, ANSWERS_VERSION } from './answers';

type Json = Record<string, unknown>;

function definition(name: string, shape: z.ZodType): Json {
  const { $schema: _, ...schema } = z.toJSONSchema(shape, { target: 'draft-2020-12' }) as Json;
  const { properties, required } = schema as { properties: Json; required?: string[] };
  return {
    title: `Answer of “${name}”`,
    ...schema,
    properties: { answer: { const: name }, version: { const: ANSWERS_VERSION }, ...properties },
    required: ['answer', 'version', ...(required ?? [])],
  };
}

/** JSON Schema (2020-12) of all answers: one choice by the name of the answer. */
export function answersSchema(): object {
  const names = Object.keys(ANSWERS) as (keyof typeof ANSWERS)[];
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    $id: `urn:loess:schema:answers:${ANSWERS_VERSION}`,
    title: 'Answers of Loess at the terminal',
    description: `What --json answers, version ${ANSWERS_VERSION}. See docs/terminal.md.`,
    type: 'object',
    required: ['answer', 'version'],
    properties: { answer: { enum: names }, version: { const: ANSWERS_VERSION } },
    allOf: names.map((name) => ({
      if: { type: 'object', required: ['answer'], properties: { answer: { const: name } } },
      then: { $ref: `#/$defs/${name}` },
    })),
    $defs: Object.fromEntries(names.map((name) => [name, definition(name, ANSWERS[name])])),
  };
}
