/**
 * Code of our own for sector 0 beside an MBR: loads the first sector of the active partition with the extended disk
 * calls of a BIOS (INT 13h, functions 41h and 42h), looks for its mark, and passes on drive and entry; or says what
 * is missing, waits for a key, and lets the BIOS try what comes next (INT 18h). For an 80386 or later.
 *
 * A BIOS enters it at 0000:7C00h with the drive in DL; it moves itself to 0000:0600h.
 */
import { codeOfListing } from '../bytes/listing';

/** Bytes at the left, what they mean to a processor at the right. */
export const MBR_CODE_LISTING = String.raw`
                     | .intel_syntax noprefix
                     | .code16
                     | .globl start
                     | start:
fa                   |     cli                         # No interrupt while the stack moves.
31c0                 |     xor ax, ax
8ed0                 |     mov ss, ax
bc007c               |     mov sp, 0x7C00              # The stack grows down from where a BIOS put this sector.
fb                   |     sti
fc                   |     cld
8ed8                 |     mov ds, ax
8ec0                 |     mov es, ax
89e6                 |     mov si, sp
bf0006               |     mov di, 0x0600              # This sector moves out of the way of the next one.
b90001               |     mov cx, 0x0100
f3a5                 |     rep movsw
ea1d060000           |     ljmp 0x0000, offset moved
                     | moved:
bfd906               |     mov di, offset none         # The sentence for a table in which nothing is active.
31ed                 |     xor bp, bp
bebe07               |     mov si, 0x07BE              # The first of the four entries.
b104                 |     mov cl, 4
                     | entry:
803c80               |     cmp byte ptr [si], 0x80     # Active is 80h and nothing else.
7509                 |     jne behind
85ed                 |     test bp, bp
bff706               |     mov di, offset two
7579                 |     jnz say                     # A second one: nobody knows which is meant.
89f5                 |     mov bp, si
                     | behind:
83c610               |     add si, 0x10
e2ed                 |     loop entry
bfd906               |     mov di, offset none
85ed                 |     test bp, bp
746b                 |     jz say
8a4604               |     mov al, [bp+4]              # Its type: 05h, 0Fh and 85h are containers.
bf1807               |     mov di, offset box
247f                 |     and al, 0x7F
3c05                 |     cmp al, 0x05
745f                 |     je say
3c0f                 |     cmp al, 0x0F
745b                 |     je say
52                   |     push dx                     # The drive: some BIOSes change it.
b441                 |     mov ah, 0x41                # Are there extended disk calls?
bbaa55               |     mov bx, 0x55AA
cd13                 |     int 0x13
5a                   |     pop dx
bf3d07               |     mov di, offset calls
724d                 |     jc say
81fb55aa             |     cmp bx, 0xAA55
7547                 |     jne say
f6c101               |     test cl, 1                  # Bit 0: those with packets.
7442                 |     jz say
b90300               |     mov cx, 3                   # A drive that just woke up may fail once or twice.
                     | again:
51                   |     push cx
6a00                 |     push 0                      # The packet, its end first: sector, upper half.
6a00                 |     push 0
66ff7608             |     push dword ptr [bp+8]       # Sector, lower half: the first one of the partition.
6a00                 |     push 0                      # Segment and offset to load to.
68007c               |     push 0x7C00
6a01                 |     push 1                      # Sectors.
6a10                 |     push 0x10                   # Bytes of this packet.
89e6                 |     mov si, sp
52                   |     push dx
b442                 |     mov ah, 0x42
cd13                 |     int 0x13
5a                   |     pop dx
8d6410               |     lea sp, [si+0x10]
59                   |     pop cx
730d                 |     jnc loaded
52                   |     push dx
30e4                 |     xor ah, ah                  # Resets the drive.
cd13                 |     int 0x13
5a                   |     pop dx
e2d8                 |     loop again
bf6207               |     mov di, offset bad
eb12                 |     jmp say
                     | loaded:
bf8607               |     mov di, offset blank
813efe7d55aa         |     cmp word ptr [0x7DFE], 0xAA55
7507                 |     jne say
89ee                 |     mov si, bp                  # DS:SI is the entry, DL the drive.
ea007c0000           |     ljmp 0x0000, 0x7C00
                     | say:
becc06               |     mov si, offset head
e80b00               |     call text
89fe                 |     mov si, di
e80600               |     call text
30e4                 |     xor ah, ah                  # Waits for a key, and lets the BIOS try what comes next.
cd16                 |     int 0x16
cd18                 |     int 0x18
                     | text:
ac                   |     lodsb
84c0                 |     test al, al
7409                 |     jz done
b40e                 |     mov ah, 0x0E
bb0700               |     mov bx, 0x0007
cd10                 |     int 0x10
ebf2                 |     jmp text
                     | done:
c3                   |     ret
                     | head:
0d0a536563746f722030 |     .asciz "\r\nSector 0: "
3a2000               |
                     | none:
6e6f2070617274697469 |     .asciz "no partition is marked active"
6f6e206973206d61726b |
65642061637469766500 |
                     | two:
74776f20706172746974 |     .asciz "two partitions are marked active"
696f6e7320617265206d |
61726b65642061637469 |
766500               |
                     | box:
77686174206973206d61 |     .asciz "what is marked active is a container"
726b6564206163746976 |
65206973206120636f6e |
7461696e657200       |
                     | calls:
746869732042494f5320 |     .asciz "this BIOS has no extended disk calls"
686173206e6f20657874 |
656e646564206469736b |
2063616c6c7300       |
                     | bad:
74686520616374697665 |     .asciz "the active partition cannot be read"
20706172746974696f6e |
2063616e6e6f74206265 |
207265616400         |
                     | blank:
74686520616374697665 |     .asciz "the active partition has no boot code"
20706172746974696f6e |
20686173206e6f20626f |
6f7420636f646500     |
`;

/** The bytes. */
export const MBR_CODE = codeOfListing(MBR_CODE_LISTING);
