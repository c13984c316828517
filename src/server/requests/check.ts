/**
 * Inputs of the server are described by classes that class-validator checks: bodies, paths, queries and
 * headers. What a document says inside is for the core to judge, not for them.
 */
import 'reflect-metadata';
import { ValidateIf, type ValidationError, validateSync } from 'class-validator';
import { Refusal } from '../refusal';

/** A class that describes an input; fields in `numbers` come as text and are read as numbers. */
export type Described<T> = (new () => T) & { readonly numbers?: readonly string[] };

/** A field that may be left out. `null` is something that was said, and is judged like everything else. */
export const IfGiven = () => ValidateIf((_, value) => value !== undefined);

/** What a class says of a failed check where the usual answer would say too little; its message is a whole sentence then. */
export interface OwnRefusal {
  readonly status: number;
  readonly code: string;
}

/** Options of a check that is answered with a status and code of its own. */
export const answered = (status: number, code: string, sentence: string) => ({
  message: sentence,
  context: { status, code } satisfies OwnRefusal,
});

function refusal([error]: readonly ValidationError[], code: string): Refusal {
  if (!error) return new Refusal(400, code, 'The field “body” is not valid.', 'body');
  const { property, constraints = {}, contexts = {} } = error;
  const [name = '', text = 'is not valid'] = Object.entries(constraints)[0] ?? [];
  const own = contexts[name] as OwnRefusal | undefined;
  if (own) return new Refusal(own.status, own.code, text, property);
  const problem = text.replace(new RegExp(`^(property )?${property} `), '');
  return new Refusal(400, code, `The field “${property}” ${problem}.`, property);
}

/** Makes an object of the class from `value`, or refuses the first field that does not fit. Fields that it does not know are refused, or left out. */
export function checked<T extends object>(
  value: object,
  type: Described<T>,
  code: string,
  unknown: 'refused' | 'left out' = 'refused',
): T {
  const isRefused = unknown === 'refused';
  const fields = Object.getOwnPropertyDescriptors(value) as PropertyDescriptorMap;
  for (const name of Object.keys(fields).filter((one) => one in Object.prototype)) {
    if (isRefused) throw new Refusal(400, code, `The field “${name}” should not exist.`, name);
    Reflect.deleteProperty(fields, name);
  }
  const filled = Object.defineProperties(new type(), fields) as T;
  const errors = validateSync(filled, { whitelist: true, forbidNonWhitelisted: isRefused, stopAtFirstError: true });
  if (errors.length === 0) return filled;
  throw refusal(errors, code);
}

/** The fields that a class reads as numbers, as numbers where they are some. */
function withNumbers(fields: Readonly<Record<string, unknown>>, { numbers = [] }: Described<object>): object {
  const read = (name: string, value: unknown) =>
    numbers.includes(name) && typeof value === 'string' && /^\d{1,16}$/.test(value) ? Number(value) : value;
  return Object.fromEntries(Object.entries(fields).map(([name, value]) => [name, read(name, value)]));
}

/** Checks the query of an address; a name that stands there twice is refused. */
export function checkedQuery<T extends object>(query: URLSearchParams, type: Described<T>): T {
  const fields: Record<string, string> = {};
  for (const [name, text] of query) {
    if (name in fields) throw new Refusal(400, 'query-invalid', `The field “${name}” is given twice.`, name);
    Object.defineProperty(fields, name, { value: text, enumerable: true });
  }
  return checked(withNumbers(fields, type), type, 'query-invalid');
}

/** Checks the parts of a path. */
export function checkedParts<T extends object>(parts: object, type: Described<T>): T {
  return checked(withNumbers(parts as Readonly<Record<string, unknown>>, type), type, 'path-invalid');
}

/** Checks the headers that a class knows, by their names in lower case. */
export function checkedHeaders<T extends object>(headers: object, type: Described<T>): T {
  return checked(withNumbers(headers as Readonly<Record<string, unknown>>, type), type, 'header-invalid', 'left out');
}

/** The query of a page, or why it is none. A page does not mind what it does not know. */
export async function pageQuery<T extends object>(query: Promise<object>, type: Described<T>): Promise<T | string> {
  try {
    const fields = (await query) as Readonly<Record<string, unknown>>;
    return checked(withNumbers(fields, type), type, 'query-invalid', 'left out');
  } catch (error) {
    if (error instanceof Refusal) return error.message;
    throw error;
  }
}
