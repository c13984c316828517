/**
 * The published JSON Schema of the layout document, made from its one description, with words for
 * people, and in the parts that strict validators and editors know: definitions that are shared, one
 * choice by kind instead of many alternatives, patterns instead of formats of our own.
 */
import * as z from 'zod';
import { NOT_SIZED, NOT_SUMMED } from '../filesystems/fields';
import { SIZE_WORDS } from '../quantity/size-words';
import { layoutShape } from './document';
import { DEFINITIONS, FIELDS, type Words } from './schema-words';
import { LAYOUT_VERSION } from './vocabulary';

type Json = Readonly<Record<string, unknown>>;
type Properties = Readonly<Record<string, Json>>;

/** Where a size begins: with a figure, or with one of the words of the size language, whatever their case. */
const anyCase = (word: string) => [...word].map((c) => `[${c.toUpperCase()}${c}]`).join('');
const FIRST_WORDS = [...new Set(SIZE_WORDS.map((words) => words.replace(/ .*/, '')))];
const PATTERNS = { size: `^\\s*([0-9]|${FIRST_WORDS.map(anyCase).join('|')})`, exactSize: '^\\s*[0-9]' };

/** The shared definitions, by what tells them in the schema that is made of the shape. */
const sameAs = (definition: keyof typeof DEFINITIONS, schema: Json): [string, Json] => [
  definition,
  { ...DEFINITIONS[definition], ...schema },
];

function definitionOf(schema: Json): [string, Json] | undefined {
  const { type, format, pattern, enum: values } = schema;
  if (format === 'loess-size' || format === 'loess-exact-size') {
    const { format: _, ...rest } = schema;
    const name = format === 'loess-size' ? 'size' : 'exactSize';
    return sameAs(name, { ...rest, pattern: PATTERNS[name] });
  }
  if (Array.isArray(values) && values.join() === '512,4096') return sameAs('sectorSize', schema);
  if (type !== 'string' || typeof pattern !== 'string') return undefined;
  if (pattern === '^[0-9a-fA-F]{64}$') return sameAs('sha256', schema);
  if (pattern.startsWith('^(\\{[0-9a-fA-F]{8}-')) return sameAs('guid', schema);
  if (pattern === '^[0-9a-fA-F]{4}-[0-9a-fA-F]{4}$') return sameAs('volumeId', schema);
  return pattern.startsWith('^[a-z][a-z0-9-]{0,31}') ? sameAs('slotId', schema) : undefined;
}

/** The value of the field `kind` of an alternative. */
function kindIn(schema: Json): string | undefined {
  const { kind } = (schema.properties ?? {}) as Properties;
  return typeof kind?.const === 'string' ? kind.const : undefined;
}

class Teaching {
  readonly definitions: Record<string, Json> = {};
  /** Fields without words, and words without a field. */
  readonly missing: string[] = [];
  readonly used = new Set<string>();

  /** A part of the schema; `path` names the fields that lead to it, and the kinds between them. */
  part(schema: Json, path: string): Json {
    const alternatives = (schema.oneOf ?? schema.anyOf) as readonly Json[] | undefined;
    if (alternatives) return this.choice(schema, alternatives, path);
    const known = definitionOf(schema);
    if (known) {
      const [name, definition] = known;
      this.definitions[name] ??= definition;
      return { $ref: `#/$defs/${name}` };
    }
    if (schema.type === 'array') {
      const isSet = ['boots', 'table.gpt.hybrid'].includes(path);
      return {
        ...schema,
        items: this.part(schema.items as Json, path),
        ...(isSet && { uniqueItems: true }),
      };
    }
    return schema.properties ? this.object(schema, path) : schema;
  }

  private object(schema: Json, path: string): Json {
    const fields = Object.entries(schema.properties as Properties).map(([name, inner]) => {
      const at = path === '' ? name : `${path}.${name}`;
      return [name, this.field(inner, at)] as const;
    });
    return { ...schema, properties: Object.fromEntries(fields), ...acrossFields(schema, path) };
  }

  private field(inner: Json, at: string): Json {
    const part = this.part(inner, at);
    const said = this.wordsFor(at);
    return said ? { ...said, ...part } : part;
  }

  /** The words for a field: its own, or those that every kind of the object has in common. */
  private wordsFor(at: string): Words | undefined {
    const kindless = at.replace(/^(slots)\.(partition|raw|free)\.(id|kind|name)$/, '$1.$3');
    const shorter = kindless.replace(/^(table|slots\.partition\.content)\.[a-z]+\.kind$/, '$1.kind');
    const found = FIELDS[shorter];
    if (found) this.used.add(shorter);
    else this.missing.push(at);
    return found;
  }

  /** Several values become a list of them; objects of several kinds one choice by their kind. */
  private choice(schema: Json, alternatives: readonly Json[], path: string): Json {
    const { oneOf: _, anyOf: __, ...rest } = schema;
    if (alternatives.every((one) => one.const !== undefined)) {
      const whole = { ...rest, type: alternatives[0]!.type, enum: alternatives.map((one) => one.const) };
      return this.part(whole, path);
    }
    const kinds = alternatives.map(kindIn);
    if (kinds.some((kind) => kind === undefined))
      return { ...rest, anyOf: alternatives.map((one) => this.part(one, path)) };
    return {
      ...rest,
      type: 'object',
      required: ['kind'],
      properties: { kind: { ...this.wordsFor(`${path}.kind`), enum: kinds } },
      allOf: alternatives.map((one, i) => ({
        if: { type: 'object', required: ['kind'], properties: { kind: { const: kinds[i] } } },
        // What is valid of this kind, and nothing else.
        then: this.part(one, `${path}.${kinds[i]!}`),
      })),
    };
  }
}

/** An object that has these fields, whatever is in them; strict validators want to be told that they are fields. */
const having = (...names: string[]): Json => ({
  type: 'object',
  required: names,
  properties: Object.fromEntries(names.map((name) => [name, true])),
});

/** What goes across the fields of an object, as far as a schema can say it. */
function acrossFields({ properties }: Json, path: string): Json {
  if (path === 'medium')
    return {
      if: { type: 'object', required: ['logicalSector'], properties: { logicalSector: { const: 4096 } } },
      then: { type: 'object', properties: { physicalSector: { const: 4096 } } },
    };
  const { sha256, path: beside } = properties as Properties;
  // A supplied file says what it is, or where it lies.
  return sha256 && beside ? { anyOf: [having('sha256', 'name', 'size'), having('path')] } : {};
}

function taught() {
  const { $schema, ...shape } = z.toJSONSchema(layoutShape, {
    target: 'draft-2020-12',
    io: 'input',
    // What is filled in where nothing was said is no default for people to know.
    override: ({ jsonSchema }) => {
      if (jsonSchema.default === NOT_SUMMED || jsonSchema.default === NOT_SIZED) delete jsonSchema.default;
    },
  });
  const teaching = new Teaching();
  return { $schema, body: teaching.part(shape as Json, ''), teaching };
}

/**
 * JSON Schema (2020-12). Ids of slots that occur twice and other rules across objects, and the whole of
 * the size language, cannot be said in it: the program says them.
 */
export function layoutSchema(): object {
  const { $schema, body, teaching } = taught();
  return {
    $schema,
    $id: `urn:loess:schema:layout:${LAYOUT_VERSION}`,
    title: 'Loess layout',
    description: `A partition layout, version ${LAYOUT_VERSION}. See docs/document.md.`,
    ...body,
    $defs: teaching.definitions,
  };
}

/** Fields that the words forget, and words for fields that are none. */
export function wordsAmiss(): { readonly missing: readonly string[]; readonly needless: readonly string[] } {
  const { teaching } = taught();
  return { missing: teaching.missing, needless: Object.keys(FIELDS).filter((path) => !teaching.used.has(path)) };
}
