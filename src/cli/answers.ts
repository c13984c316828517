/**
 * What `--json` answers, each as a shape: its type and its published JSON Schema are taken from it. The
 * program itself needs only the types. Nothing in an answer changes from run to run but `thisRun`.
 */
import * as z from 'zod';

/** Version of all answers: a field that changes its meaning, or goes, makes another one. */
export const ANSWERS_VERSION = 1;
export type AnswersVersion = typeof ANSWERS_VERSION;

const count = z.int().min(0);
const text = z.string();
const sum = z.string().regex(/^[0-9a-f]{64}$/);
const severity = z.enum(['stop', 'risk', 'note']);
/** Fields by the kind of what it is; docs/survey.md says which. */
const byKind = z.looseObject({});

const finding = z.strictObject({
  rule: text,
  severity,
  place: z.strictObject({ kind: z.enum(['medium', 'table', 'boots', 'slot']), id: text.optional() }),
  sentence: text,
  why: text,
  remedies: z.array(text),
  accepted: text.optional(),
  acceptedBefore: z.strictObject({ sentence: text, reason: text }).optional(),
});

const accepted = z.strictObject({ rule: text, slot: text.optional(), sentence: text, reason: text });
const extent = { start: count, sectors: count };
const reason = z.strictObject({ rule: text, grain: count, cost: count, text });
const range = { what: text, offset: count, length: count };

/** A word of a mount table, and why it stands there. */
const steps = z.array(z.strictObject({ title: text, why: text, commands: z.array(text) }));
const mountWord = z.strictObject({ text, why: text });

const copied = z.strictObject({ contents: count, copiedBytes: count, damaged: z.array(sum) });

const foundPartition = z.strictObject({
  key: text,
  kind: z.enum(['primary', 'container', 'logical', 'gpt', 'whole medium']),
  number: count,
  ...extent,
  type: text,
  active: z.boolean(),
  status: count,
  id: text,
  name: text,
  attributes: z.array(text),
  inside: byKind,
  recordAt: count,
});

const survey = z.strictObject({
  size: count,
  sectorSize: z.union([z.literal(512), z.literal(4096)]),
  sectors: count,
  table: z.enum(['mbr', 'gpt', 'none']),
  mbr: z
    .strictObject({
      signature: count,
      records: z.array(byKind),
      hasCode: z.boolean(),
      protectiveCount: count.optional(),
      protectiveActive: z.boolean(),
    })
    .optional(),
  gpt: z.strictObject({ first: byKind.optional(), copy: byKind.optional() }),
  gptCopiesAgree: z.boolean(),
  otherSectorSize: z.union([z.literal(512), z.literal(4096)]).optional(),
  partitions: z.array(foundPartition),
  chain: z.array(z.strictObject({ kind: text, sector: count })),
  gaps: z.array(z.strictObject({ ...extent, dataAt: count.optional(), seenWhole: z.boolean() })),
  /** Keys of partitions, and gaps by their first sector, that were not looked at in full. */
  unread: z.array(text),
  leftovers: z.array(z.strictObject({ sector: count, what: text })),
  iso: byKind.optional(),
  read: count,
});

/** A partition before or after a change. */
const side = z.strictObject({ number: count, ...extent, name: text, type: text, inside: text });

/** What would be written into an image, what that means, and what is found afterwards; `image` is the one that was made. */
const proposal = z.strictObject({
  words: z.array(text),
  becomes: count,
  ranges: z.array(z.strictObject({ what: text, at: count, ranges: count, bytes: count })),
  left: z.array(z.strictObject({ rule: text, severity, sentence: text })),
  image: text.optional(),
});

/** Every answer by its name, without what all of them begin with. */
export const ANSWERS = {
  check: z.strictObject({ findings: z.array(finding) }),
  accept: z.strictObject({ accepted: z.array(accepted) }),
  'fill-in': z.strictObject({ filled: z.array(z.strictObject({ field: text, value: z.union([text, count]) })) }),
  place: z.strictObject({
    layout: text,
    sectorSize: z.union([z.literal(512), z.literal(4096)]),
    sectors: count,
    usable: z.strictObject({ first: count, end: count }),
    grain: z.strictObject({ bytes: count, sectors: count, rule: text, because: text }),
    /** Unit for the data areas of file systems, in bytes. */
    dataUnit: count,
    gpt: z
      .strictObject({
        entries: count,
        arraySectors: count,
        array: count,
        firstUsable: count,
        lastUsable: count,
        backupArray: count,
        backupHeader: count,
      })
      .optional(),
    placed: z.array(
      z.strictObject({
        id: text,
        name: text,
        kind: z.enum(['partition', 'raw', 'free']),
        /** Kind of its size rule. */
        takes: text.optional(),
        ...extent,
        /** In bytes; the end is the one behind the last. */
        span: z.strictObject({ start: count, end: count }),
        startReason: reason,
        endReason: reason,
        entry: z.strictObject({ number: count, type: text, id: text }).optional(),
        recordAt: count.optional(),
        /** Geometry of the volume that is made in it, by its kind; or why there is none. */
        made: byKind.optional(),
      }),
    ),
    containers: z.array(z.strictObject({ number: count, type: text, ...extent, slots: z.array(text) })),
    strata: z.array(
      z.strictObject({
        kind: z.enum(['table', 'slot', 'gap']),
        ...extent,
        id: text.optional(),
        cause: text.optional(),
        text: text.optional(),
      }),
    ),
    misfits: z.array(
      z.strictObject({
        against: z.strictObject({ kind: text, id: text.optional() }),
        slots: z.array(text),
        shortBy: count,
        couldGive: z.array(z.strictObject({ id: text, sectors: count })),
      }),
    ),
  }),
  build: z.strictObject({
    image: text,
    size: count,
    writtenBytes: count,
    ranges: z.array(
      z.strictObject({ owner: text.optional(), ...range, files: count.optional(), sha256: sum.optional() }),
    ),
    comparisons: z.array(
      z.strictObject({ slot: text.optional(), fact: text, meant: text, found: text, agrees: z.boolean() }),
    ),
    accepted: z.array(accepted),
    volumes: z.array(z.strictObject({ partition: text, name: text })),
    /** Milliseconds from the first write to the rename. */
    thisRun: z.strictObject({ milliseconds: z.number().min(0) }),
  }),
  repair: z.strictObject({
    repairs: z.array(
      z.strictObject({ id: text, rules: z.array(text), label: text, refused: text.optional(), says: z.array(text) }),
    ),
    /** Called for, and made only where they are asked for. */
    onRequest: z.array(z.strictObject({ id: text, rules: z.array(text), label: text })),
    ranges: z.array(
      z.strictObject({
        what: text,
        offset: count,
        length: count,
        changes: z.array(z.strictObject({ sector: count, field: text, before: text, after: text })),
      }),
    ),
    left: z.array(z.strictObject({ rule: text, severity, sentence: text })),
    image: text.optional(),
  }),
  /** A folder of a volume in an image, or one file. */
  files: z.strictObject({
    kind: text,
    path: text,
    remark: text.optional(),
    trouble: text.optional(),
    entries: z.array(
      z.strictObject({
        name: text,
        kind: text,
        size: count,
        written: text.optional(),
        attributes: z.array(text),
        target: text.optional(),
        owned: z.strictObject({ mode: count, user: count, group: count, names: count }).optional(),
      }),
    ),
  }),
  /** A file that was fetched from there. */
  fetch: z.strictObject({ path: text, size: count, file: text }),
  /** What the check of ext volumes came to. */
  examine: z.strictObject({
    volumes: z.array(
      z.strictObject({
        partition: text,
        refused: text.optional(),
        words: z.array(text),
        faults: z.array(z.strictObject({ code: text, where: text, says: text, files: z.array(text).optional() })),
        isCutShort: z.boolean(),
        files: count,
        folders: count,
      }),
    ),
  }),
  /** How small ext volumes can be, in bytes; missing where no length serves. */
  minimum: z.strictObject({
    volumes: z.array(
      z.strictObject({
        partition: text,
        refused: text.optional(),
        block: count.optional(),
        bytes: count.optional(),
        renumbered: count.optional(),
        kept: count.optional(),
        mustKeep: z.boolean().optional(),
        inodes: count.optional(),
        highest: count.optional(),
      }),
    ),
  }),
  /** A volume in another length: as it would be, or as it was written. */
  repack: z.strictObject({
    partition: text,
    size: count,
    block: count,
    free: count,
    words: z.array(text),
    leftOut: z.array(text),
    file: text.optional(),
  }),
  change: z.strictObject({
    partitions: z.array(
      z.strictObject({
        slot: text.optional(),
        fates: z.array(text),
        before: side.optional(),
        after: side.optional(),
        /** Bytes that are lost, or may be. */
        atStake: count,
        words: z.array(text),
      }),
    ),
    /** What is written, gathered by what it is; `at` is the byte of the first range. */
    ranges: z.array(z.strictObject({ what: text, slot: text.optional(), at: count, ranges: count, bytes: count })),
    left: z.array(z.strictObject({ rule: text, severity, sentence: text })),
    image: text.optional(),
  }),
  cut: proposal,
  clear: proposal,
  series: z.strictObject({
    copies: z.array(
      z.strictObject({
        copy: count,
        image: text,
        bytes: count,
        medium: text.optional(),
        slots: z.array(z.strictObject({ id: text, partition: text.optional(), content: text.optional() })),
      }),
    ),
  }),
  'hand-over': z.strictObject({
    media: z.array(
      z.strictObject({
        name: text,
        table: z.strictObject({ kind: z.enum(['GPT', 'MBR']), id: text }).optional(),
        partitions: z.array(
          z.strictObject({
            id: text,
            name: text,
            number: count.optional(),
            identifiers: z.array(z.strictObject({ by: text, name: text, told: text })),
          }),
        ),
      }),
    ),
    mounts: z.array(
      z.strictObject({
        medium: text,
        slot: text,
        source: mountWord,
        point: mountWord,
        type: mountWord,
        options: z.array(mountWord),
        dump: mountWord,
        pass: mountWord,
        warning: text.optional(),
        steps,
      }),
    ),
    attaching: z.array(z.strictObject({ medium: text, steps })),
    text,
    boot: z.array(z.strictObject({ path: text, slot: text.optional(), why: text, text })),
    sheet: z.strictObject({
      facts: z.array(z.strictObject({ name: text, text })),
      rows: z.array(
        z.strictObject({
          number: count.optional(),
          name: text,
          what: z.array(text),
          first: count,
          last: count,
          sectors: count,
          bytes: count,
          exactly: text.optional(),
          isSlot: z.boolean(),
        }),
      ),
      risks: z.array(z.strictObject({ severity, place: text, sentence: text, reason: text.optional() })),
      images: z.array(z.strictObject({ name: text, bytes: count, sha256: sum.optional() })),
      left: z.array(z.strictObject({ what: text, why: text })),
    }),
  }),
  'check-mounts': z.strictObject({
    findings: z.array(
      z.strictObject({
        rule: text,
        severity,
        line: count,
        column: count,
        sentence: text,
        why: text,
        remedies: z.array(text),
      }),
    ),
    more: count,
  }),
  'add-mounts': z.strictObject({
    added: z.array(text),
    present: z.array(text),
    clashes: z.array(z.strictObject({ slot: text, line: count, over: z.enum(['partition', 'mount point']) })),
    text,
  }),
  survey: z.strictObject({
    survey,
    findings: z.array(
      z.strictObject({
        rule: text,
        severity,
        place: z.strictObject({
          kind: z.enum(['medium', 'sector', 'partition']),
          sector: count.optional(),
          key: text.optional(),
        }),
        sentence: text,
        why: text,
      }),
    ),
  }),
  sector: z.strictObject({
    sector: count,
    at: count,
    what: text,
    groups: z.array(
      z.strictObject({
        title: text,
        fields: z.array(z.strictObject({ name: text, offset: count, length: count, text, means: text })),
      }),
    ),
    lines: z.array(z.strictObject({ offset: count, hex: text, text })),
  }),
  'check-data': z.strictObject({
    revisions: count,
    contents: count,
    bytes: count,
    images: count,
    damages: z.array(z.strictObject({ kind: text, what: text, sentence: text, layouts: z.array(text) })),
    quarantined: count,
    thisRun: z.strictObject({ checkedAt: text }),
  }),
  'back-up': copied,
  restore: copied,
  clean: z.strictObject({
    swept: z.strictObject({ number: count, bytes: count, doubts: z.array(text) }),
    emptied: z.array(z.strictObject({ day: text, files: count, bytes: count })),
  }),
  /** On the error output, with the number that the program ends with. */
  error: z.strictObject({ code: text, sentence: text, lines: z.array(text), exit: count }),
} as const;

export type Answers = { readonly [Name in keyof typeof ANSWERS]: z.infer<(typeof ANSWERS)[Name]> };
