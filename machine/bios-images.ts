/** Images that a BIOS starts: a payload in the boot sector of a partition, and bytes that are put into an image. */
import { closeSync, openSync, writeSync } from 'node:fs';
import { assembled } from '@tests/assembler';
import type { Layout } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';
import { writeImage } from '@/files/image-file';

/** What is started: says which drive it was given, and the first sector in the entry that it was pointed to. */
export const payload = `.intel_syntax noprefix
.code16
start:
    mov bp, si
    mov di, dx
    mov si, offset text
    call say
    mov ax, di
    mov cl, 4
    call hex
    mov si, offset first
    call say
    mov ax, [bp+10]
    mov cl, 4
    call hex
    mov ax, [bp+8]
    mov cl, 4
    call hex
    mov si, offset over
    call say
stop:
    hlt
    jmp stop
say:
    lodsb
    test al, al
    jz done
    mov ah, 0x0E
    mov bx, 7
    int 0x10
    jmp say
hex:
    rol ax, 4
    push ax
    and al, 15
    cmp al, 10
    sbb al, 0x69
    das
    mov ah, 0x0E
    mov bx, 7
    int 0x10
    pop ax
    dec cl
    jnz hex
done:
    ret
text: .asciz "Payload: drive "
first: .asciz ", from sector "
over: .asciz "."
`;
/** A boot sector with it, and its mark. */
function bootSector(): Buffer {
  const sector = Buffer.alloc(512);
  sector.set(assembled(payload, 0x7c00));
  sector.writeUInt16LE(0xaa55, 510);
  return sector;
}

/** Bytes for an image, by sector and the byte in it. */
export type Puts = (placement: Placement) => readonly (readonly [sector: number, bytes: Buffer, at?: number])[];

/** Builds a layout and puts bytes into the image. */
export async function imageWith(layout: Layout, file: string, put: Puts): Promise<Placement> {
  const placement = place(layout);
  await writeImage({ placement, path: file, signal: new AbortController().signal, onProgress: () => undefined });
  const out = openSync(file, 'r+');
  for (const [sector, bytes, at = 0] of put(placement)) writeSync(out, bytes, 0, bytes.length, sector * 512 + at);
  closeSync(out);
  return placement;
}

/** First sector of a slot. */
export const startOf = (placement: Placement, id: string): number =>
  placement.placed.find(({ slot }) => slot.id === id)!.start;

/** The payload in the first sector of a slot. */
export const withPayload =
  (id: string): Puts =>
  (placement) => [[startOf(placement, id), bootSector()]];
