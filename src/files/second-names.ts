/** Second names of files in an archive, where a later entry may take the place of what they name. */

/** The names of one content: the path under which it stands, and its other names in their order. */
interface Shared {
  head: string;
  readonly names: string[];
  /** Names before this one have the content no more. */
  next: number;
}

export class SecondNames {
  private readonly byHead = new Map<string, Shared>();
  private readonly byName = new Map<string, Shared>();

  /** Where the content of a second name stands; undefined where the path is none. */
  headOf(path: string): string | undefined {
    return this.byName.get(path)?.head;
  }

  /** Makes a path a second name of what stands under another one, which is no second name itself. */
  add(path: string, of: string): void {
    let shared = this.byHead.get(of);
    if (!shared) this.byHead.set(of, (shared = { head: of, names: [], next: 0 }));
    shared.names.push(path);
    this.byName.set(path, shared);
  }

  /**
   * Something else takes the place of what stood under a path. Where that had second names, the first of them is given: the
   * content stands there from now on.
   */
  replaced(path: string): string | undefined {
    this.byName.delete(path);
    const shared = this.byHead.get(path);
    if (!shared) return undefined;
    this.byHead.delete(path);
    while (shared.next < shared.names.length) {
      const heir = shared.names[shared.next++]!;
      if (this.byName.get(heir) !== shared) continue;
      this.byName.delete(heir);
      shared.head = heir;
      this.byHead.set(heir, shared);
      return heir;
    }
    return undefined;
  }
}
