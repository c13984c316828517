/** Between the web and the use cases: bodies in, JSON and refusals out. */
import { MIB } from '@/core/quantity/units';
import { NotPlain } from '../files/plain-file';
import { systemTrouble } from '../files/system-errors';
import { log, requestId } from './log';
import { Refusal } from './refusal';
import { checked, checkedParts, checkedQuery, type Described } from './requests/check';

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

async function readObject(request: Request): Promise<object> {
  let value: unknown;
  const text = await readText(request);
  try {
    value = JSON.parse(text);
  } catch {
    throw new Refusal(400, 'body-not-json', 'The body of the request is not JSON.', 'body');
  }
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new Refusal(400, 'body-not-an-object', 'The body of the request must be a JSON object.', 'body');
  return value;
}

/** Reads a JSON body and checks it against a class; unknown fields are refused. */
export async function readBody<T extends object>(request: Request, type: Described<T>): Promise<T> {
  return checked(await readObject(request), type, 'body-invalid');
}

/** Reads a JSON body that is of one of several kinds; its field `by` says of which. */
export async function readBodyBy<Kinds extends Readonly<Record<string, Described<object>>>>(
  request: Request,
  by: string,
  kinds: Kinds,
): Promise<InstanceType<Kinds[keyof Kinds]>> {
  const body = await readObject(request);
  const word = (body as Readonly<Record<string, unknown>>)[by];
  if (typeof word !== 'string' || !Object.hasOwn(kinds, word))
    throw new Refusal(400, 'body-invalid', `The field “${by}” must be one of ${Object.keys(kinds).join(', ')}.`, by);
  return checked(body, kinds[word]!, 'body-invalid') as InstanceType<Kinds[keyof Kinds]>;
}

/** Reads the query of a request and checks it against a class. */
export function readQuery<T extends object>(request: Request, type: Described<T>): T {
  return checkedQuery(new URL(request.url).searchParams, type);
}

/** Reads the parts of a path and checks them against a class. */
export async function readPath<T extends object>(parts: Promise<object>, type: Described<T>): Promise<T> {
  return checkedParts(await parts, type);
}

/** What a refused request is answered with. */
export interface ErrorAnswer {
  readonly error: { readonly code: string; readonly sentence: string; readonly field?: string };
}

/** Status of what the system refused: out of room, or not now. */
const STATUS: Readonly<Record<string, number>> = {
  'disk-full': 507,
  'too-many-open-files': 503,
  'database-busy': 503,
};

/** Status and answer for anything thrown. What the system refused is told as such. What is no refusal is a defect: logged, and told without details. */
export function errorAnswer(error: unknown): { status: number; answer: ErrorAnswer } {
  if (error instanceof Refusal) {
    const { status, code, message, field } = error;
    return { status, answer: { error: { code, sentence: message, ...(field !== undefined && { field }) } } };
  }
  if (error instanceof NotPlain) {
    const sentence = `${error.message} Put a plain file in its place.`;
    return { status: 422, answer: { error: { code: 'not-a-plain-file', sentence } } };
  }
  const trouble = systemTrouble(error);
  log.error(trouble?.sentence ?? 'Something went wrong inside the server.', { error });
  if (trouble) return { status: STATUS[trouble.code] ?? 500, answer: { error: trouble } };
  const id = requestId();
  const where = id === undefined ? '' : `, under the request ${id}`;
  const sentence = `Something went wrong inside the server; its log says more${where}. Nothing was changed.`;
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
