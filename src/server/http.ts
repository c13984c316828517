/** Between the web and the use cases: bodies in, JSON and refusals out. */
import { MIB } from '@/core/quantity/units';
import { validateSync, type ValidationError } from 'class-validator';
import { Refusal } from './refusal';
import 'reflect-metadata';

/** Longest body of a request, in bytes. */
export const BODY_LIMIT = 2 * MIB;

async function readText(request: Request): Promise<string> {
  const chunks: Uint8Array[] = [];
  let length = 0;
  const reader = request.body?.getReader();
  while (reader) {
    const { done, value } = await reader.read();
    if (done) break;
    length += value.length;
    if (length > BODY_LIMIT) {
      await reader.cancel();
      throw new Refusal(413, 'body-too-long', `The request is longer than ${BODY_LIMIT} bytes.`, 'body');
    }
    chunks.push(value);
  }
  return new TextDecoder().decode(Buffer.concat(chunks));
}

function firstProblem(errors: readonly ValidationError[]): { field: string; text: string } {
  const [error] = errors;
  if (!error) return { field: 'body', text: 'is not valid' };
  const text = Object.values(error.constraints ?? {})[0] ?? 'is not valid';
  return { field: error.property, text: text.replace(new RegExp(`^(property )?${error.property} `), '') };
}

/**
 * Reads a JSON body and checks it against a class; unknown fields are refused. Only the fields
 * of the body itself are looked at here: what a document says inside is for the core to judge.
 */
export async function readBody<T extends object>(request: Request, type: new () => T): Promise<T> {
  let value: unknown;
  const text = await readText(request);
  try {
    value = JSON.parse(text);
  } catch {
    throw new Refusal(400, 'body-not-json', 'The body of the request is not JSON.', 'body');
  }
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new Refusal(400, 'body-not-an-object', 'The body of the request must be a JSON object.', 'body');
  return checked(value, type, 'body-invalid');
}

function checked<T extends object>(value: object, type: new () => T, code: string): T {
  const filled = Object.defineProperties(new type(), Object.getOwnPropertyDescriptors(value)) as T;
  const errors = validateSync(filled, { whitelist: true, forbidNonWhitelisted: true });
  if (errors.length === 0) return filled;
  const { field, text: problem } = firstProblem(errors);
  throw new Refusal(400, code, `The field “${field}” ${problem}.`, field);
}

/** Reads the query of a request and checks it against a class; the fields that are `numbers` are read as such. */
export function readQuery<T extends object>(
  request: Request,
  type: new () => T,
  numbers: readonly (keyof T & string)[] = [],
): T {
  const isNumber = (name: string) => (numbers as readonly string[]).includes(name);
  const pairs = [...new URL(request.url).searchParams].map(([name, text]) => [
    name,
    isNumber(name) && /^\d{1,16}$/.test(text) ? Number(text) : text,
  ]);
  return checked(Object.fromEntries(pairs) as object, type, 'query-invalid');
}

/** What a refused request is answered with. */
export interface ErrorAnswer {
  readonly error: { readonly code: string; readonly sentence: string; readonly field?: string };
}

/** Status and answer for anything thrown. What is no refusal is a defect: logged, and told without details. */
export function errorAnswer(error: unknown): { status: number; answer: ErrorAnswer } {
  if (error instanceof Refusal) {
    const { status, code, message, field } = error;
    return { status, answer: { error: { code, sentence: message, ...(field !== undefined && { field }) } } };
  }
  console.error(error);
  const sentence = 'Something went wrong inside the server; its log says more. Nothing was changed.';
  return { status: 500, answer: { error: { code: 'internal', sentence } } };
}

/** Runs a use case and answers with its result as JSON, or with why it was refused. */
export async function respond(work: () => Promise<unknown>, status = 200): Promise<Response> {
  try {
    return Response.json((await work()) ?? {}, { status, headers: { 'cache-control': 'no-store' } });
  } catch (error) {
    const { status: refused, answer } = errorAnswer(error);
    return Response.json(answer, { status: refused, headers: { 'cache-control': 'no-store' } });
  }
}
