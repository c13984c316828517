/** Calls to the server. A refusal comes back as a value with its sentence. */
import type { BuildView } from '@/contract/builds';
import type { LayoutView, RevisionView } from '@/contract/layouts';
import type { LedgerView } from '@/contract/surveys';

/** Why a call did not do what it should. `status` 0: the server did not answer. */
export interface CallError {
  readonly status: number;
  readonly code: string;
  readonly sentence: string;
}

export type Answer<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly error: CallError };

async function call<T>(method: string, url: string, body?: unknown): Promise<Answer<T>> {
  try {
    const response = await fetch(url, {
      method,
      ...(body !== undefined && { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
    });
    const value = (await response.json()) as T & { error?: { code: string; sentence: string } };
    if (response.ok) return { ok: true, value };
    const { code = 'unknown', sentence = `The server answered ${response.status}.` } = value.error ?? {};
    return { ok: false, error: { status: response.status, code, sentence } };
  } catch {
    return {
      ok: false,
      error: { status: 0, code: 'no-answer', sentence: 'The server does not answer. Is it still running?' },
    };
  }
}

const layout = (id: string) => `/api/layouts/${encodeURIComponent(id)}`;
const build = (id: string) => `/api/builds/${encodeURIComponent(id)}`;

export const getLayout = (id: string) => call<LayoutView>('GET', layout(id));
export const createLayout = (document: object, note: string) =>
  call<LayoutView>('POST', '/api/layouts', { document, note });
export const saveRevision = (id: string, change: { base: number; document: object; note: string }) =>
  call<LayoutView>('POST', `${layout(id)}/revisions`, change);
export const listRevisions = (id: string) => call<RevisionView[]>('GET', `${layout(id)}/revisions`);
export const nameRevision = (id: string, number: number, name: string) =>
  call<object>('PATCH', `${layout(id)}/revisions/${number}`, { name });
export const moveHead = (id: string, move: { base: number; direction: 'undo' | 'redo' }) =>
  call<LayoutView>('POST', `${layout(id)}/head`, move);
export const putAway = (id: string, away: boolean) => call<object>(away ? 'DELETE' : 'PUT', layout(id));
export const startBuild = (layoutId: string, revision: number) =>
  call<BuildView>('POST', '/api/builds', { layoutId, revision });
export const getBuild = (id: string) => call<BuildView>('GET', build(id));
export const removeBuild = (id: string) => call<object>('DELETE', build(id));
export const cancelBuild = (id: string) => call<object>('POST', `${build(id)}/cancel`);
export const startDigest = (id: string) => call<BuildView>('POST', `${build(id)}/digest`);
export const cancelDigest = (id: string) => call<object>('DELETE', `${build(id)}/digest`);

/** Where the image of a build is downloaded. */
export function imageUrl(id: string, as: 'raw' | 'gzip'): string {
  return `/api/images/${encodeURIComponent(id)}?as=${as}`;
}

const query = (asked: Readonly<Record<string, string | number>>) =>
  new URLSearchParams(Object.entries(asked).map(([name, value]) => [name, String(value)])).toString();

export const getSector = (of: string, sectorSize: number, sector: number) =>
  call<LedgerView>('GET', `/api/surveys/sector?${query({ of, sectorSize, sector })}`);
export const removeFile = (name: string) => call<object>('DELETE', fileUrl(name));

/** Where a file is sent to, and deleted. */
export function fileUrl(name: string): string {
  return `/api/files/${encodeURIComponent(name)}`;
}

/** The page of a survey. */
export function surveyUrl(of: string): string {
  return `/surveys?${query({ of })}`;
}
