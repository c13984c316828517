/** Holds a survey of any image against the second reader of tables. */
import type { BlockSource } from '@/core/bytes/blocks';
import { HEAD_LENGTH } from '@/core/filesystems/signatures';
import { recognise } from '@/core/filesystems/readers';
import type { Survey } from '@/core/survey/found';
import { tablesByTheBook } from './tables-by-the-book';

/** What both of them must say of a partition, as text. */
const said = (one: {
  number: number;
  start: number;
  sectors: number;
  type: string;
  active: boolean;
  id: string;
  name: string;
}) => [one.number, one.start, one.sectors, one.type, one.active, one.id, one.name].join(' ');

/** Throws an Error that says where a survey and the second reader see different tables. */
export async function agreesWithTheBook(source: BlockSource, survey: Survey): Promise<void> {
  const head = await source.read(0, Math.min(HEAD_LENGTH, source.size));
  const hasVolume = recognise(head, new Uint8Array(0)) !== undefined;
  const book = await tablesByTheBook(source, survey.sectorSize, hasVolume);
  if (book.table !== survey.table) throw new Error(`the survey sees ${survey.table}, the book ${book.table}`);
  const found = survey.partitions.filter(
    ({ kind, key }) => kind !== 'container' && kind !== 'whole medium' && !key.startsWith('mbr-'),
  );
  const [a, b] = [found.map(said).join('\n'), book.partitions.map(said).join('\n')];
  if (a !== b) throw new Error(`the survey sees\n${a}\nand the book\n${b}`);
}
