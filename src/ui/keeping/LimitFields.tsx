'use client';

import type { Limits } from '@/contract/keeping';
import { amountInBytes, parseExact } from '@/core/quantity/size-language';
import { exactText } from '@/core/quantity/units';
import { exactEcho } from '../kit/size-echo';
import { TextField } from '../kit/TextField';

const SECTOR = 512;

/** A limit as one types it; nothing for none. */
function textOf(limit: number | null): string {
  return limit === null ? '' : exactText(limit, SECTOR);
}

function limitIn(text: string): number | null {
  const read = parseExact(text);
  return read.ok ? amountInBytes(read.value, SECTOR) : null;
}

/** How much may be kept: sizes in the size language, nothing for no limit. */
export function LimitFields({ limits, onChange }: { limits: Limits; onChange: (limits: Limits) => void }) {
  const echo = exactEcho(SECTOR, { empty: 'No limit but the disk.' });
  return (
    <div className="mt-1 grid max-w-[460px] grid-cols-[150px_1fr] items-start gap-x-2.5 gap-y-1.5">
      <TextField
        label="Contents, at most"
        mono
        value={textOf(limits.contents)}
        placeholder="no limit"
        echo={echo}
        onCommit={(text) => onChange({ ...limits, contents: limitIn(text) })}
      />
      <TextField
        label="Built images, at most"
        mono
        value={textOf(limits.builds)}
        placeholder="no limit"
        echo={echo}
        onCommit={(text) => onChange({ ...limits, builds: limitIn(text) })}
      />
    </div>
  );
}
