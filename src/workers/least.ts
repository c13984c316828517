/** A worker for the smallest slot of an ext file system: large trees are measured off the main thread. */
import { leastExt } from '../core/filesystems/ext/least';
import type { ExtContent } from '../core/filesystems/ext/shape';
import type { Site } from '../core/filesystems/kind';
import type { Tree } from '../core/filesystems/tree';

/** A tree is sent once; later questions are about the one that was sent last. */
export interface LeastAsked {
  readonly key: string;
  readonly content: ExtContent;
  readonly site: Omit<Site, 'sectors'>;
  readonly tree?: Tree;
}

export interface LeastAnswer {
  readonly key: string;
  /** Bytes; undefined where no size holds the files. */
  readonly bytes: number | undefined;
  readonly milliseconds: number;
}

/** Answers questions, and keeps the tree that it was told last. */
export class LeastKeeper {
  private tree: Tree = [];

  answer({ key, content, site, tree }: LeastAsked, now: () => number): LeastAnswer {
    if (tree) this.tree = tree;
    const started = now();
    const bytes = leastExt(content, site, this.tree)?.bytes;
    return { key, bytes, milliseconds: now() - started };
  }
}
