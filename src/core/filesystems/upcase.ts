/**
 * The up-case table: which UTF-16 unit stands for another where case does not matter ("Up-case
 * Table" of the published exFAT specification). It is the simple one-to-one mapping of the
 * Unicode Character Database, written down here once, so that the same layout gives the same
 * bytes whatever runs it.
 *
 * Each piece says: from-to, every unit or every second one (`/2`), and what is added or taken.
 */
const RUNS = `
  b5-b5+2e7 e0-f6-20 f8-fe-20 ff-ff+79 101-12f/2-1 131-131-e8 133-137/2-1 13a-148/2-1 14b-177/2-1 17a-17e/2-1
  17f-17f-12c 180-180+c3 183-185/2-1 188-188-1 18c-18c-1 192-192-1 195-195+61 199-199-1 19a-19a+a3
  19b-19b+a641 19e-19e+82 1a1-1a5/2-1 1a8-1a8-1 1ad-1ad-1 1b0-1b0-1 1b4-1b6/2-1 1b9-1b9-1 1bd-1bd-1 1bf-1bf+38
  1c5-1c5-1 1c6-1c6-2 1c8-1c8-1 1c9-1c9-2 1cb-1cb-1 1cc-1cc-2 1ce-1dc/2-1 1dd-1dd-4f 1df-1ef/2-1 1f2-1f2-1
  1f3-1f3-2 1f5-1f5-1 1f9-21f/2-1 223-233/2-1 23c-23c-1 23f-240+2a3f 242-242-1 247-24f/2-1 250-250+2a1f
  251-251+2a1c 252-252+2a1e 253-253-d2 254-254-ce 256-257-cd 259-259-ca 25b-25b-cb 25c-25c+a54f 260-260-cd
  261-261+a54b 263-263-cf 264-264+a567 265-265+a528 266-266+a544 268-268-d1 269-269-d3 26a-26a+a544
  26b-26b+29f7 26c-26c+a541 26f-26f-d3 271-271+29fd 272-272-d5 275-275-d6 27d-27d+29e7 280-280-da 282-282+a543
  283-283-da 287-287+a52a 288-288-da 289-289-45 28a-28b-d9 28c-28c-47 292-292-db 29d-29d+a515 29e-29e+a512
  345-345+54 371-373/2-1 377-377-1 37b-37d+82 3ac-3ac-26 3ad-3af-25 3b1-3c1-20 3c2-3c2-1f 3c3-3cb-20
  3cc-3cc-40 3cd-3ce-3f 3d0-3d0-3e 3d1-3d1-39 3d5-3d5-2f 3d6-3d6-36 3d7-3d7-8 3d9-3ef/2-1 3f0-3f0-56
  3f1-3f1-50 3f2-3f2+7 3f3-3f3-74 3f5-3f5-60 3f8-3f8-1 3fb-3fb-1 430-44f-20 450-45f-50 461-481/2-1 48b-4bf/2-1
  4c2-4ce/2-1 4cf-4cf-f 4d1-52f/2-1 561-586-30 10d0-10fa+bc0 10fd-10ff+bc0 13f8-13fd-8 1c80-1c80-186e
  1c81-1c81-186d 1c82-1c82-1864 1c83-1c84-1862 1c85-1c85-1863 1c86-1c86-185c 1c87-1c87-1825 1c88-1c88+89c2
  1c8a-1c8a-1 1d79-1d79+8a04 1d7d-1d7d+ee6 1d8e-1d8e+8a38 1e01-1e95/2-1 1e9b-1e9b-3b 1ea1-1eff/2-1 1f00-1f07+8
  1f10-1f15+8 1f20-1f27+8 1f30-1f37+8 1f40-1f45+8 1f51-1f57/2+8 1f60-1f67+8 1f70-1f71+4a 1f72-1f75+56
  1f76-1f77+64 1f78-1f79+80 1f7a-1f7b+70 1f7c-1f7d+7e 1fb0-1fb1+8 1fbe-1fbe-1c25 1fd0-1fd1+8 1fe0-1fe1+8
  1fe5-1fe5+7 214e-214e-1c 2170-217f-10 2184-2184-1 24d0-24e9-1a 2c30-2c5f-30 2c61-2c61-1 2c65-2c65-2a2b
  2c66-2c66-2a28 2c68-2c6c/2-1 2c73-2c73-1 2c76-2c76-1 2c81-2ce3/2-1 2cec-2cee/2-1 2cf3-2cf3-1 2d00-2d25-1c60
  2d27-2d27-1c60 2d2d-2d2d-1c60 a641-a66d/2-1 a681-a69b/2-1 a723-a72f/2-1 a733-a76f/2-1 a77a-a77c/2-1
  a77f-a787/2-1 a78c-a78c-1 a791-a793/2-1 a794-a794+30 a797-a7a9/2-1 a7b5-a7c3/2-1 a7c8-a7ca/2-1 a7cd-a7db/2-1
  a7f6-a7f6-1 ab53-ab53-3a0 ab70-abbf-97d0 ff41-ff5a-20
`;

const UNITS = 0x10000;
/** Units that a table must spell out one by one. */
const SPELLED = 128;
const IDENTITY = 0xffff;

let table: Uint16Array | undefined;

function made(): Uint16Array {
  const units = Uint16Array.from({ length: UNITS }, (_, i) => i);
  for (let unit = 0x61; unit <= 0x7a; unit++) units[unit] = unit - 0x20;
  for (const [, first, last, step, sign, delta] of RUNS.matchAll(/([0-9a-f]+)-([0-9a-f]+)(\/2)?([+-])([0-9a-f]+)/g)) {
    const by = parseInt(delta!, 16) * (sign === '+' ? 1 : -1);
    for (let unit = parseInt(first!, 16); unit <= parseInt(last!, 16); unit += step ? 2 : 1) units[unit] = unit + by;
  }
  return units;
}

/** The unit that stands for `unit`. */
export function upcased(unit: number): number {
  table ??= made();
  return table[unit]!;
}

/** The table as exFAT stores it: units as they are, runs of at least three that stand for themselves as FFFFh and their length. */
export function storedTable(): Uint8Array {
  const stored: number[] = [];
  for (let unit = 0; unit < UNITS;) {
    let end = unit;
    while (end < UNITS && upcased(end) === end && end - unit < IDENTITY - 1) end += 1;
    if (unit >= SPELLED && end - unit >= 3) {
      stored.push(IDENTITY, end - unit);
      unit = end;
    } else stored.push(upcased(unit++));
  }
  const bytes = new Uint8Array(2 * stored.length);
  stored.forEach((value, i) => new DataView(bytes.buffer).setUint16(2 * i, value, true));
  return bytes;
}
