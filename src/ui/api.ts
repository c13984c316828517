/** Calls to the server. A refusal comes back as a value with its sentence. */
import type { Does } from '@/core/change/proposal';
import type { BuildView } from '@/contract/builds';
import type { BlobView, FileSource, FolderView, TreeChange, TreeView } from '@/contract/contents';
import type { FolderOrder, Holdings } from '@/contract/keeping';
import type { LayoutView, RevisionView } from '@/contract/layouts';
import type { LedgerView, VolumeCheckView, VolumeRoomView } from '@/contract/surveys';

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
export const saveRevision = (id: string, change: { base: number; document: object; note: string; step: string }) =>
  call<LayoutView>('POST', `${layout(id)}/revisions`, change);
export const listRevisions = (id: string) => call<RevisionView[]>('GET', `${layout(id)}/revisions`);
export const nameRevision = (id: string, number: number, name: string) =>
  call<object>('PATCH', `${layout(id)}/revisions/${number}`, { name });
export const moveHead = (id: string, move: { base: number; direction: 'undo' | 'redo'; step: string }) =>
  call<LayoutView>('POST', `${layout(id)}/head`, move);
export const putAway = (id: string, away: boolean) => call<object>(away ? 'DELETE' : 'PUT', layout(id));
export const startBuild = (layoutId: string, revision: number, copy = 0) =>
  call<BuildView>('POST', '/api/builds', { layoutId, revision, ...(copy > 0 && { copy }) });
const checkUrl = '/api/surveys/check';
interface VolumeNamed {
  readonly of: string;
  readonly partition: string;
}
const volumeNamed = ({ of, partition }: VolumeNamed) => `${checkUrl}?${new URLSearchParams({ of, partition })}`;
export const getVolumeCheck = (volume: VolumeNamed) => call<VolumeCheckView>('GET', volumeNamed(volume));
export const startVolumeCheck = ({ of, partition }: VolumeNamed) =>
  call<VolumeCheckView>('POST', checkUrl, { of, partition });
export const stopVolumeCheck = (volume: VolumeNamed) => call<VolumeCheckView>('DELETE', volumeNamed(volume));
const roomUrl = '/api/surveys/room';
export const getVolumeRoom = ({ of, partition }: VolumeNamed) =>
  call<VolumeRoomView>('GET', `${roomUrl}?${new URLSearchParams({ of, partition })}`);
export const startRepack = (order: VolumeNamed & { size: string; keepsNumbers: boolean; withoutFaulty: boolean }) =>
  call<BuildView>('POST', '/api/surveys/repack', order);
export const keepInLayout = (of: string, sectorSize: number) =>
  call<LayoutView>('POST', '/api/surveys/keep', { of, sectorSize });
export const startProposal = (order: { of: string; does: string; only?: string; sectorSize: number; mark: string }) =>
  call<BuildView>('POST', '/api/surveys/changes', order);
export const startChange = (order: { layoutId: string; revision: number; of: string; mark: string }) =>
  call<BuildView>('POST', '/api/changes', order);
export const getBuild = (id: string) => call<BuildView>('GET', build(id));
export const removeBuild = (id: string) => call<object>('DELETE', build(id));
export const cancelBuild = (id: string) => call<object>('POST', `${build(id)}/cancel`);
export const startDigest = (id: string) => call<BuildView>('POST', `${build(id)}/digest`);
export const cancelDigest = (id: string) => call<object>('DELETE', `${build(id)}/digest`);

export const getCheck = () => call<Holdings['check']>('GET', '/api/data/check');
export const getHoldings = () => call<Holdings>('GET', '/api/data');
export const orderOfFolder = (order: FolderOrder) => call<Holdings>('POST', '/api/data', order);
export const goOnFromReadable = (id: string) => call<LayoutView>('POST', `${layout(id)}/readable`);

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

/** The page of what would be done to an image by itself. */
export function proposalUrl(asked: { of: string; sectorSize: number; does: Does; only?: string }): string {
  const { sectorSize, ...rest } = asked;
  return `/surveys/change?${query({ ...rest, sectorSize: String(sectorSize) })}`;
}

/** The page of a survey. */
export function surveyUrl(of: string): string {
  return `/surveys?${query({ of })}`;
}

export const getTree = (sha256: string) => call<TreeView>('GET', `/api/contents/trees/${sha256}`);
export const getBlob = (sha256: string) => call<BlobView>('GET', `/api/contents/blobs/${sha256}`);
export const changeTree = (into: string | undefined, change: TreeChange) =>
  call<TreeView>('POST', '/api/contents/trees', { ...(into !== undefined && { into }), ...change });
export const listFileSources = () => call<FileSource[]>('GET', '/api/contents/sources');
export const listVolumeFolder = (asked: { of: string; partition: string; path: string }) =>
  call<FolderView>('GET', `/api/contents/listing?${query(asked)}`);
export const takeFromVolume = (from: {
  of: string;
  partition: string;
  path: string;
  under: string;
  into?: string | undefined;
  /** Owners, modes, links, devices and attributes are kept. */
  keepsAll?: boolean;
}) => call<TreeView>('POST', '/api/contents/from-volume', from);

/** Where contents are sent to: files of a tree, a file of its own, or a document with what lies beside it. */
export function contentUrl(
  what: 'file' | 'folder' | 'archive' | 'blob' | 'layout',
  asked: Readonly<Record<string, string | undefined>>,
): string {
  const given = Object.entries(asked).filter((one): one is [string, string] => one[1] !== undefined && one[1] !== '');
  return `/api/contents/${what}?${query(Object.fromEntries(given))}`;
}

/** Where a stored file, or a part of it, is downloaded. */
export function storedUrl(sha256: string, name: string, part?: { at: number; length: number }): string {
  return `/api/contents/stored?${query({ sha256, name, ...(part && { at: String(part.at), length: String(part.length) }) })}`;
}

/** Where a file of a volume is downloaded, and the page of a folder of it. */
export function volumeFileUrl(asked: { of: string; partition: string; path: string }): string {
  return `/api/contents/volume?${query(asked)}`;
}

export function folderUrl(asked: { of: string; partition: string; path: string }): string {
  return `/surveys/files?${query(asked)}`;
}
