/**
 * Documents of older versions, read as the newest one. Each step is one small function from the JSON of
 * a version to the JSON of the next; what it does not know it hands on, for the validation to judge.
 * What was read is never rewritten where it lies. See docs/document.md.
 */
import { RULES_OF_1 } from './upgrade-rules';

type Json = Readonly<Record<string, unknown>>;

const isObject = (value: unknown): value is Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** Variants of FAT as version 1 said them; `fat` left it to the size. */
const VARIANTS: Json = { fat12: 12, fat16: 16, fat32: 32 };
/** Kinds of content that have another name since version 2. */
const RENAMED: Json = { blob: 'file', overwritten: 'zeros' };

function contentOf1(slot: Json): unknown {
  const { fileSystem, content, role } = slot;
  if (isObject(fileSystem)) {
    const { kind, ...rest } = fileSystem;
    const variant = VARIANTS[String(kind)];
    if (variant !== undefined) return { kind: 'fat', variant, ...rest };
    return { ...fileSystem, kind };
  }
  if (isObject(content)) return { ...content, kind: RENAMED[String(content.kind)] ?? content.kind };
  // A swap partition of which nothing was said was left to its system.
  return content === undefined && role === 'swap' ? { kind: 'left', expects: 'swap' } : content;
}

/** The slots of version 1 had a file system and a content, of which a partition had one at most. */
function slotOf1(slot: unknown): unknown {
  if (!isObject(slot) || slot.kind !== 'partition') return slot;
  const { fileSystem, content: _, ...rest } = slot;
  const content = contentOf1(slot);
  const isTwice = fileSystem !== undefined && slot.content !== undefined;
  // Where it has both, the field that is not known any more is what is wrong.
  return { ...rest, ...(isTwice && { fileSystem }), ...(content !== undefined && { content }) };
}

function machineOf1(machine: unknown): unknown {
  if (!isObject(machine) || !('biosWall' in machine)) return machine;
  const { biosWall, ...rest } = machine;
  return { ...rest, biosLimit: biosWall };
}

/** Since version 2 the area of a rule's id tells where the rule stands. */
function acceptedOf1(accepted: unknown): unknown {
  if (!isObject(accepted)) return accepted;
  return { ...accepted, rule: RULES_OF_1.get(String(accepted.rule)) ?? accepted.rule };
}

function from1(document: Json): Json {
  const { slots, machine, accepted } = document;
  return {
    ...document,
    version: 2,
    ...(machine !== undefined && { machine: machineOf1(machine) }),
    ...(Array.isArray(slots) && { slots: slots.map(slotOf1) }),
    ...(Array.isArray(accepted) && { accepted: accepted.map(acceptedOf1) }),
  };
}

const STEPS: ReadonlyMap<unknown, (document: Json) => Json> = new Map([[1, from1]]);

/** The JSON of a document as the newest version would say it; what is no older document comes back as it is. */
export function upgraded(value: unknown): unknown {
  if (!isObject(value) || value.format !== 'loess-layout') return value;
  const step = STEPS.get(value.version);
  return step ? upgraded(step(value)) : value;
}

/** Where a document, as it was written, has what the newest version has at `path`. */
export function writtenPath(path: string, document: unknown): string {
  if (!isObject(document) || document.version !== 1) return path;
  if (path === 'machine.biosLimit') return 'machine.biosWall';
  const [, index, rest] = /^slots\[(\d+)\]\.content(.*)$/.exec(path) ?? [];
  const slot: unknown = Array.isArray(document.slots) ? document.slots[Number(index)] : undefined;
  const isOld = rest !== undefined && isObject(slot) && 'fileSystem' in slot;
  return isOld ? `slots[${index}].fileSystem${rest}` : path;
}
