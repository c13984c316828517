/** Looking at an image file before and after a guest or firmware had it. */
import { closeSync, openSync, readSync } from 'node:fs';
import { open } from 'node:fs/promises';
import type { Placement } from '@/core/placement/placement';
import type { Survey } from '@/core/survey/found';
import { surveyMedium } from '@/core/survey/survey';
import { fileSource } from '@/files/file-source';
import type { GuestDisk } from './guest';

/** The sectors of all parts of the table, as hexadecimal digits. */
export function tablesOf(file: string, { sectorSize, sectors, usable }: Placement): string {
  const handle = openSync(file, 'r');
  const read = (first: number, count: number) => {
    const bytes = Buffer.alloc(count * sectorSize);
    readSync(handle, bytes, 0, bytes.length, first * sectorSize);
    return bytes.toString('hex');
  };
  const parts = read(0, usable.first) + read(usable.end, sectors - usable.end);
  closeSync(handle);
  return parts;
}

/** A survey of a disk's file, with every FAT read in full. */
export async function surveyFile({ file, sectorSize }: GuestDisk): Promise<Survey> {
  const handle = await open(file, 'r');
  try {
    const { size } = await handle.stat();
    return await surveyMedium(fileSource(handle, size), { sectorSize, isFull: true });
  } finally {
    await handle.close();
  }
}
