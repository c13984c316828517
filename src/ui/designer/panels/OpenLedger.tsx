'use client';

import { Button } from '../../kit/Button';
import { Key } from '../../kit/Key';
import { useDesigner } from '../state/context';

/** A button that opens a sector of the layout in the ledger. */
export function OpenLedger({ sector, text }: { sector: number; text: string }) {
  const select = useDesigner((state) => state.select);
  return (
    <p className="mt-2">
      <Button onClick={() => select({ kind: 'ledger', sector })}>
        {text} <Key>L</Key>
      </Button>
    </p>
  );
}
