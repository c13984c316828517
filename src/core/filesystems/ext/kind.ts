/** ext2, ext3 and ext4 as a kind of content. */
import { guidFrom } from '../../bytes/guid';
import { exactBytes } from '../../quantity/size-language';
import type { Kind, MadeOf, Site } from '../kind';
import type { Tree } from '../tree';
import { featuresOf, profileOf, versionMade } from './features';
import { EXT_BLOCKS, extGeometry, type ExtGeometry, type ExtQuestion, type ExtRefusal } from './geometry';
import { storedExtLabel } from './label';
import { inodesOf } from './nodes';
import type { ExtContent } from './shape';

export type ExtMade = MadeOf<'ext', ExtGeometry, ExtRefusal>;

/** What the document asks of a volume in this place that shall hold this tree. */
export function extQuestion(content: ExtContent, site: Site, tree: Tree | undefined): ExtQuestion {
  const { block, perInode, inodeSize, journal, reserved, growTo } = content;
  const { sectors, sectorSize, pageSize, isSystem } = site;
  const bytes = (text: string | undefined) => (text === undefined ? undefined : exactBytes(text, sectorSize));
  const orNone = (text: string | undefined) => (text === 'none' ? 'none' : bytes(text));
  return {
    sectorSize,
    bytes: sectors * sectorSize,
    pageSize,
    features: featuresOf(content),
    isTiny: profileOf(content) === 'tiny',
    isSystem,
    block: bytes(block),
    perInode: bytes(perInode),
    inodeSize,
    journal: orNone(journal),
    reserved,
    growTo: orNone(growTo),
    entries: tree ? inodesOf(tree) : 0,
  };
}

/** Geometries that were asked for last: a layout asks for the same ones with every placement, and plans hang on them. */
const KNOWN = new Map<string, ExtMade>();
const KNOWN_LIMIT = 256;

export const EXT: Kind<ExtContent, ExtMade> = {
  kind: 'ext',
  word: 'ext',
  takesFiles: true,
  keepsAll: true,
  clusters: { sizes: EXT_BLOCKS, text: 'a power of two from 1 KiB to 32 KiB', field: 'block' },
  identity: {
    of: ({ uuid }) => uuid,
    with: (content, uuid) => ({ ...content, uuid }),
    from: guidFrom,
    suffix: '/ext',
  },
  fresh: (uuid) => ({ kind: 'ext', version: 'ext4', uuid }),
  summary: ({ version, label = '' }) => ({ word: version, detail: storedExtLabel(label).text || undefined }),
  geometry(content, site, tree) {
    const question = extQuestion(content, site, tree);
    const key = JSON.stringify({ ...question, features: [...question.features] });
    const known = KNOWN.get(key);
    if (known) return known;
    const made: ExtMade = { kind: 'ext', geometry: extGeometry(question) };
    if (KNOWN.size >= KNOWN_LIMIT) KNOWN.clear();
    KNOWN.set(key, made);
    return made;
  },
  mounted: ({ version, uuid, label = '' }, made) => ({
    type: made?.geometry.ok ? versionMade(version, made.geometry.value.journalBlocks > 0) : version,
    id: uuid,
    label: storedExtLabel(label).text || undefined,
    known: 'made',
  }),
  typed: () => 'linux',
};
