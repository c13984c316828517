/**
 * What is known of stored contents in this window: asked for once, and kept, because content
 * never changes. The rules about contents come with the first document that has any.
 */
import type { TreeView } from '@/contract/contents';
import { type Tree } from '@/core/filesystems/tree';
import { treeAsWritten } from '@/core/filesystems/tree-text';
import type { Rule } from '@/core/findings/layout/finding';
import { referredTo, namesContents } from '@/core/layout/contents';
import { type BlobFacts, type Contents, contentsOf } from '@/core/filesystems/supplied';
import type { Layout } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';
import { type Answer, getBlob, getTree } from '../api';

const trees = new Map<string, Tree | 'missing'>();
const blobs = new Map<string, BlobFacts | 'missing'>();
const texts = new Map<string, string>();
const asked = new Set<string>();

/** Everything that this window knows. */
const knownContents: Contents = contentsOf(trees, blobs, undefined, texts);

let inside: readonly Rule[] = [];
let placing: typeof place = place;

/** The rules about what is inside, as far as this window has them. */
export const rulesInside = (): readonly Rule[] => inside;

/** Places a document with what is known of its contents, and with the files that it asks to be written. */
export const placeKnown = (layout: Layout): Placement => placing(layout, knownContents);

async function learnRules(layout: Layout): Promise<boolean> {
  if (inside.length > 0 || !namesContents(layout)) return false;
  const [rules, written] = await Promise.all([
    import('@/core/findings/layout/inside'),
    import('@/core/naming/written'),
  ]);
  inside = rules.INSIDE_RULES;
  placing = written.placeWritten;
  return true;
}

/** Keeps a tree, and what its files say. */
function keepTree(sha256: string, view: TreeView): void {
  trees.set(sha256, treeAsWritten(view));
  for (const [name, text] of Object.entries(view.texts ?? {})) texts.set(name, text);
}

/** A tree that came with an answer need not be asked for. */
export function remember(view: TreeView): void {
  if (view.sha256 !== null) keepTree(view.sha256, view);
}

async function ask<T>(
  sha256: string,
  get: (sha256: string) => Promise<Answer<T>>,
  keep: (found: T | 'missing') => void,
) {
  asked.add(sha256);
  const answer = await get(sha256);
  if (answer.ok) keep(answer.value);
  else if (answer.error.status === 404) keep('missing');
  // A silent server is asked again with the next change.
  else asked.delete(sha256);
  return answer.ok || answer.error.status === 404;
}

function bytesOf(base64: string): Uint8Array {
  return Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
}

/** Gets what is not known of what a document names, and the rules about it. True when there is news. */
export async function learn(layout: Layout): Promise<boolean> {
  const named = referredTo(layout);
  const news = await Promise.all([
    learnRules(layout),
    ...named.trees
      .filter((sha256) => !trees.has(sha256) && !asked.has(sha256))
      .map((sha256) =>
        ask(sha256, getTree, (found) => {
          if (found === 'missing') trees.set(sha256, found);
          else keepTree(sha256, found);
        }),
      ),
    ...named.blobs
      .filter((sha256) => !blobs.has(sha256) && !asked.has(sha256))
      .map((sha256) =>
        ask(sha256, getBlob, (found) =>
          blobs.set(
            sha256,
            found === 'missing'
              ? found
              : { size: found.size, head: bytesOf(found.head), ...(found.image && { image: found.image }) },
          ),
        ),
      ),
  ]);
  return news.includes(true);
}
