/**
 * Code of our own for sector 0 beside a GPT: reads its header and array as they are, on sectors of 512 bytes (no sums:
 * 440 bytes are few), loads the first sector of the first partition that is marked for BIOS (attribute bit 2), and
 * passes on the drive, and at DS:SI an entry as an MBR has it with the entry of the GPT behind it, which EAX tells; or
 * says what is missing. For an 80386 or later.
 */
import { codeOfListing } from '../bytes/listing';

/** Bytes at the left, what they mean to a processor at the right. */
export const GPT_CODE_LISTING = String.raw`
                     | .intel_syntax noprefix
                     | .code16
                     | .globl start
                     | .set buffer, 0x0800             # A sector of the array.
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
52                   |     push dx                     # The drive lies at the bottom of the stack, at 7BFEh.
b441                 |     mov ah, 0x41                # Are there extended disk calls?
bbaa55               |     mov bx, 0x55AA
cd13                 |     int 0x13
bf7407               |     mov di, offset calls
727d                 |     jc fail
81fb55aa             |     cmp bx, 0xAA55
7577                 |     jne fail
f6c101               |     test cl, 1                  # Bit 0: those with packets.
7472                 |     jz fail
e88e00               |     call read                   # The header, which the packet leads to.
bf4807               |     mov di, offset none
66813e007c45464920   |     cmp dword ptr [0x7C00], 0x20494645
7561                 |     jne fail                    # It begins with "EFI PART".
66813e047c50415254   |     cmp dword ptr [0x7C04], 0x54524150
7556                 |     jne fail
be487c               |     mov si, 0x7C48              # Where its array lies: the number of a sector, of 64 bits.
bf3307               |     mov di, offset sector
66a5                 |     movsd
66a5                 |     movsd
c606300708           |     mov byte ptr [place], buffer >> 8
66ad                 |     lodsd                       # Entries, and bytes of each.
6689c1               |     mov ecx, eax
8b14                 |     mov dx, [si]
bf5907               |     mov di, offset mark
31ed                 |     xor bp, bp                  # Where in its sector an entry begins.
                     | entry:
6685c9               |     test ecx, ecx
7436                 |     jz fail                     # None of them is marked.
85ed                 |     test bp, bp
7503                 |     jnz here
e84e00               |     call read                   # The next sector of the array.
                     | here:
8db60008             |     lea si, [bp+buffer]
f6443004             |     test byte ptr [si+0x30], 4  # Bit 2 of the attributes: a BIOS starts from it.
7406                 |     jz next
66833c00             |     cmp dword ptr [si], 0       # A type of zeros: nothing is there.
7550                 |     jne found
                     | next:
6649                 |     dec ecx
01d5                 |     add bp, dx
                     | step:
81fd0002             |     cmp bp, 0x0200
72da                 |     jb entry
81ed0002             |     sub bp, 0x0200
668306330701         |     add dword ptr [sector], 1
668316370700         |     adc dword ptr [sector+4], 0
ebe8                 |     jmp step
                     | broken:
bf8b07               |     mov di, offset bad
                     | fail:
be3b07               |     mov si, offset head
e80b00               |     call text
89fe                 |     mov si, di
e80600               |     call text
30e4                 |     xor ah, ah                  # Waits for a key, and lets the BIOS try what comes next.
cd16                 |     int 0x16
cd18                 |     int 0x18
                     | text:
ac                   |     lodsb
84c0                 |     test al, al
741a                 |     jz done
b40e                 |     mov ah, 0x0E
bb0700               |     mov bx, 0x0007
cd10                 |     int 0x10
ebf2                 |     jmp text
                     | read:
6660                 |     pushad
8b16fe7b             |     mov dx, [0x7BFE]
be2b07               |     mov si, offset packet
b442                 |     mov ah, 0x42
cd13                 |     int 0x13
6661                 |     popad
72cd                 |     jc broken
                     | done:
c3                   |     ret
                     | found:
8d5c20               |     lea bx, [si+0x20]           # Its first sector.
8d7cec               |     lea di, [si-0x14]           # Ahead of the entry comes one as an MBR has it, for those who look for that:
57                   |     push di
66b880feffff         |     mov eax, 0xFFFFFE80         # active, cylinders that say nothing,
66ab                 |     stosd
b0ed                 |     mov al, 0xED                # the type that says that it is made up,
66ab                 |     stosd
668b07               |     mov eax, [bx]
66ab                 |     stosd                       # first sector and sectors, as far as 32 bits go,
668b4708             |     mov eax, [bx+8]
662b07               |     sub eax, [bx]
6640                 |     inc eax
66ab                 |     stosd
6631c0               |     xor eax, eax
b080                 |     mov al, 0x80
66ab                 |     stosd                       # and how long the entry behind it is.
89de                 |     mov si, bx
bf3307               |     mov di, offset sector
66a5                 |     movsd
66a5                 |     movsd
c60630077c           |     mov byte ptr [place], 0x7C
e8b3ff               |     call read
bfa207               |     mov di, offset blank
813efe7d55aa         |     cmp word ptr [0x7DFE], 0xAA55
7589                 |     jne fail
5e                   |     pop si                      # DS:SI is it, EAX says that an entry of a GPT stands behind it,
66b821475054         |     mov eax, 0x54504721
5a                   |     pop dx                      # DL is the drive.
ea007c0000           |     ljmp 0x0000, 0x7C00
                     | packet:
1000010000           |     .byte 16, 0, 1, 0, 0        # Bytes of it, one sector, to 0000:7C00 at first,
                     | place:
7c0000               |     .byte 0x7C, 0, 0
                     | sector:
0100000000000000     |     .long 1, 0                  # sector 1 at first.
                     | head:
0d0a536563746f722030 |     .asciz "\r\nSector 0: "
3a2000               |
                     | none:
6e6f2047505420626568 |     .asciz "no GPT behind it"
696e6420697400       |
                     | mark:
6e6f7468696e67206973 |     .asciz "nothing is marked for BIOS"
206d61726b656420666f |
722042494f5300       |
                     | calls:
6e6f20657874656e6465 |     .asciz "no extended disk calls"
64206469736b2063616c |
6c7300               |
                     | bad:
6120736563746f722069 |     .asciz "a sector is unreadable"
7320756e726561646162 |
6c6500               |
                     | blank:
6e6f20626f6f7420636f |     .asciz "no boot code there"
646520746865726500   |
`;

/** The bytes. */
export const GPT_CODE = codeOfListing(GPT_CODE_LISTING);
