/**
 * Boot code of a FAT volume without a loader: says that it does not boot, waits for a key, and lets the BIOS try what
 * comes next (INT 18h). It runs wherever it lies, as that depends on the variant.
 */
import { codeOfListing } from '../../bytes/listing';

/** Bytes at the left, what they mean to a processor at the right. */
export const NO_LOADER_LISTING = String.raw`
                     | .intel_syntax noprefix
                     | .code16
                     | .globl start
                     | start:
fc                   |     cld
e82c00               |     call here                   # Where this lies depends on the variant: the sentence stands behind the call.
                     | sentence:
0d0a5468697320766f6c |     .asciz "\r\nThis volume does not boot. Press a key.\r\n"
756d6520646f6573206e |
6f7420626f6f742e2050 |
726573732061206b6579 |
2e0d0a00             |
                     | here:
5e                   |     pop si
0e                   |     push cs
1f                   |     pop ds
                     | text:
ac                   |     lodsb
84c0                 |     test al, al
7409                 |     jz done
b40e                 |     mov ah, 0x0E
bb0700               |     mov bx, 0x0007
cd10                 |     int 0x10
ebf2                 |     jmp text
                     | done:
30e4                 |     xor ah, ah
cd16                 |     int 0x16                    # Waits for a key, and lets the BIOS try what comes next.
cd18                 |     int 0x18
f4                   |     hlt
ebf7                 |     jmp done
`;

/** The bytes. */
export const NO_LOADER = codeOfListing(NO_LOADER_LISTING);
