/** Programs for processors that a BIOS starts, assembled by the assembler of the GNU binutils. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';

/** The bytes of a source, as they stand when it is loaded to this address. */
export function assembled(source: string, address: number): Buffer {
  const folder = mkdtempSync(path.join(tmpdir(), 'loess-assembler-'));
  const at = (name: string) => path.join(folder, name);
  try {
    writeFileSync(at('code.s'), source);
    execFileSync('as', ['--32', '-o', at('code.o'), at('code.s')]);
    const place = `0x${address.toString(16)}`;
    execFileSync('ld', [
      '-m',
      'elf_i386',
      '-e',
      '0',
      '-Ttext',
      place,
      '--oformat',
      'binary',
      '-o',
      at('code'),
      at('code.o'),
    ]);
    return readFileSync(at('code'));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
