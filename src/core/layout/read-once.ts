/** Remembers what was read of a part, for the sector size with which it was read. */
export function readOnce<Part extends object, Read>(read: (part: Part, sectorSize: number) => Read) {
  const known = new WeakMap<Part, { readonly sectorSize: number; readonly value: Read }>();
  return (part: Part, sectorSize: number): Read => {
    const before = known.get(part);
    if (before?.sectorSize === sectorSize) return before.value;
    const value = read(part, sectorSize);
    known.set(part, { sectorSize, value });
    return value;
  };
}
