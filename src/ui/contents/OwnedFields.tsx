'use client';

import { modeOf, type TreeNode } from '@/core/filesystems/tree';
import { Button } from '../kit/Button';
import { TextField } from '../kit/TextField';
import { modeTyped, modeWords, octal, ownersTyped, shownName } from './owned';
import type { TreeWork } from './useTree';

/** Owner, group and mode of an entry; of a folder they can be given to all below it. */
export function OwnedFields({
  node,
  path,
  work: { change },
}: {
  readonly node: TreeNode;
  readonly path: string;
  readonly work: TreeWork;
}) {
  const { entry } = node;
  const [user, group, mode] = [entry?.user ?? 0, entry?.group ?? 0, modeOf(entry)];
  const extended = Object.keys(entry?.extended ?? {});
  return (
    <>
      <TextField
        key={`owner ${path}`}
        label="Owner"
        mono
        value={`${user}:${group}`}
        echo={(draft) =>
          ownersTyped(draft) ? undefined : { wrong: true, text: 'Two numbers, user and group, as in 1000:100.' }
        }
        onCommit={(text) => void change({ do: 'own', path, below: false, ...ownersTyped(text)! })}
      />
      {node.kind !== 'link' && (
        <TextField
          key={`mode ${path}`}
          label="Mode"
          mono
          value={octal(mode)}
          echo={(draft) => {
            const typed = modeTyped(draft);
            return typed === undefined
              ? { wrong: true, text: 'Up to four octal digits, as in 0755.' }
              : { wrong: false, text: modeWords(typed) };
          }}
          onCommit={(text) => void change({ do: 'own', path, below: false, mode: modeTyped(text)! })}
        />
      )}
      {node.kind === 'link' && (
        <>
          <span className="text-soft">Leads to</span>
          <span className="font-mono text-sm break-all">{shownName(node.entry.target)}</span>
        </>
      )}
      {extended.length > 0 && (
        <>
          <span className="text-soft">Attributes</span>
          <span className="font-mono text-sm break-all">{extended.join(', ')}</span>
        </>
      )}
      {node.kind === 'folder' && (
        <div className="col-start-2">
          <Button onClick={() => void change({ do: 'own', path, below: true, user, group })}>
            Give all below to {user}:{group}
          </Button>{' '}
          <Button
            title="Files keep whether they can be run."
            onClick={() => void change({ do: 'own', path, below: true, mode })}
          >
            Give all below the mode {octal(mode)}
          </Button>
        </div>
      )}
    </>
  );
}
