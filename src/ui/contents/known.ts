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
import { type Answer, getBlob, getTree } from '../api';

const trees = new Map<string, Tree | 'missing'>();
const blobs = new Map<string, BlobFacts | 'missing'>();
const asked = new Set<string>();

/** Everything that this window knows. */
export const knownContents: Contents = contentsOf(trees, blobs);

let inside: readonly Rule[] = [];

/** The rules about what is inside, as far as this window has them. */
export const rulesInside = (): readonly Rule[] => inside;

async function learnRules(layout: Layout): Promise<boolean> {
  if (inside.length > 0 || !namesContents(layout)) return false;
  inside = (await import('@/core/findings/layout/inside')).INSIDE_RULES;
  return true;
}

/** A tree that came with an answer need not be asked for. */
export function remember(view: TreeView): void {
  if (view.sha256 !== null) trees.set(view.sha256, treeAsWritten(view));
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
        ask(sha256, getTree, (found) => trees.set(sha256, found === 'missing' ? found : treeAsWritten(found))),
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
