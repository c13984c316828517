'use client';

import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import type { BuildView } from '@/contract/builds';
import type { LayoutView } from '@/contract/layouts';
import { mounterOf } from '@/core/naming/mount-table';
import type { MachineMedium } from '@/core/naming/nameable';
import { machineEdit } from '@/core/layout/edits';
import { place } from '@/core/placement/place';
import { Patterns } from '../column/Patterns';
import { Notice } from '../designer/bars/Notice';
import { UndoRedo } from '../designer/bars/UndoRedo';
import { useUndoKeys } from '../designer/keys/useUndoKeys';
import { DesignerProvider, useDesigner } from '../designer/state/context';
import { Button, buttonClass } from '../kit/Button';
import { Choice } from '../kit/Choice';
import { Select } from '../kit/Select';
import { TopBar } from '../kit/TopBar';
import { BootPart } from './BootPart';
import { CheckPart } from './CheckPart';
import { IdsPart } from './IdsPart';
import { MountsPart } from './MountsPart';
import { SheetPart } from './SheetPart';
import { StepsPart } from './StepsPart';
import { useKeptText } from './useKeptText';

const PARTS = {
  mounts: 'mount table',
  check: 'check one',
  steps: 'by hand',
  boot: 'boot entries',
  ids: 'ids',
  sheet: 'sheet',
} as const;
export type Part = keyof typeof PARTS;
type Media = readonly [MachineMedium, ...MachineMedium[]];
const CHOICES = Object.entries(PARTS).map(([value, text]) => ({ value: value as Part, text }));

interface Props {
  readonly view: LayoutView;
  /** The other layouts of the shelf. */
  readonly shelf: readonly { readonly id: string; readonly name: string }[];
  /** Those of them that are media of the same machine. */
  readonly others: readonly LayoutView[];
  readonly show: Part | undefined;
  /** Images that were built of it. */
  readonly builds: readonly BuildView[];
}

/** Two media of one name are told apart by what they are kept under. */
function namedMedia(own: MachineMedium, others: readonly LayoutView[]): Media {
  return others.reduce<Media>(
    (media, { id, document }) => {
      const isTaken = media.some(({ name }) => name === document.name);
      return [...media, { name: isTaken ? `${document.name} (${id})` : document.name, placement: place(document) }];
    },
    [own],
  );
}

/** Which media the machine has, and what it mounts with. */
function Machine({
  shelf,
  others,
  media,
}: Pick<Props, 'shelf' | 'others'> & { readonly media: readonly MachineMedium[] }) {
  const router = useRouter();
  const path = usePathname();
  const layout = useDesigner((state) => state.document);
  const commit = useDesigner((state) => state.commit);
  const { machine } = layout;
  const { hasSystemd } = mounterOf(media);
  const go = (ids: readonly string[]) => router.push(ids.length > 0 ? `${path}?with=${ids.join(',')}` : path);
  const ids = others.map(({ id }) => id);
  const free = shelf.filter(({ id }) => !ids.includes(id));
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5 border-b border-line bg-card px-5 py-1.5 text-sm">
      <span className="flex items-center gap-2">
        <span className="text-soft">Media of the machine</span>
        <b className="font-semibold">{layout.name}</b>
        {others.map(({ id, document }) => (
          <span key={id} className="inline-flex items-center">
            <b className="font-semibold">{document.name}</b>
            <Button
              look="quiet"
              aria-label={`Without ${document.name}`}
              onClick={() => go(ids.filter((one) => one !== id))}
            >
              ×
            </Button>
          </span>
        ))}
        {free.length > 0 && (
          <span className="w-44">
            <Select
              label="Another medium of the machine"
              value=""
              options={[
                { value: '', text: 'and another …' },
                ...free.map(({ id, name }) => ({ value: id, text: name })),
              ]}
              onChange={(id) => id !== '' && go([...ids, id])}
            />
          </span>
        )}
      </span>
      <span className="flex items-center gap-2">
        <span className="text-soft">Services started by</span>
        <Choice
          label="Services started by"
          dense
          value={machine?.services ?? 'by rule'}
          options={[
            { value: 'by rule', text: `by its use${machine?.services ? '' : hasSystemd ? ': systemd' : ': other'}` },
            { value: 'systemd', text: 'systemd' },
            { value: 'other', text: 'other' },
          ]}
          onChange={(value) => commit(machineEdit(layout, { services: value === 'by rule' ? undefined : value }))}
        />
      </span>
      <span className="flex items-center gap-2">
        <span className="text-soft">Mounted by</span>
        <Choice
          label="Mounted by"
          dense
          value={machine?.mountTool ?? 'usual'}
          options={[
            { value: 'usual', text: 'mount' },
            { value: 'busybox', text: 'BusyBox' },
          ]}
          onChange={(value) => commit(machineEdit(layout, { mountTool: value === 'busybox' ? 'busybox' : undefined }))}
        />
      </span>
    </div>
  );
}

function Screen({ shelf, others, builds, show = 'mounts' }: Props) {
  const id = useDesigner((state) => state.view.id);
  const placement = useDesigner((state) => state.placement);
  const [part, setPart] = useState<Part>(show);
  const [text, setText] = useKeptText(id);
  useUndoKeys();
  const media = useMemo(() => namedMedia({ name: placement.layout.name, placement }, others), [placement, others]);
  return (
    <div className="flex h-(--page) min-w-[960px] flex-col overflow-hidden print:block print:h-auto print:min-w-0 print:overflow-visible">
      <Patterns />
      <div className="print:hidden">
        <TopBar title={placement.layout.name} detail="what is handed over">
          <UndoRedo />
          <Link className={buttonClass()} href={`/layouts/${id}`}>
            Back to the designer
          </Link>
          <Link className={buttonClass('primary')} href={`/layouts/${id}/build`}>
            Build image
          </Link>
        </TopBar>
        <Notice />
        <Machine shelf={shelf} others={others} media={media} />
      </div>
      <main
        id="main"
        tabIndex={-1}
        className="min-h-0 flex-1 overflow-y-auto px-5 py-3 print:overflow-visible print:p-0"
      >
        <div className="mb-3 print:hidden">
          <Choice label="Part of the hand-over" value={part} options={CHOICES} onChange={setPart} />
        </div>
        {part === 'mounts' && <MountsPart media={media} own={media[0]!} />}
        {part === 'check' && <CheckPart media={media} text={text} onText={setText} />}
        {part === 'steps' && <StepsPart media={media} />}
        {part === 'boot' && <BootPart own={media[0]!} />}
        {part === 'ids' && <IdsPart media={media} />}
        {part === 'sheet' && <SheetPart media={media} builds={builds} />}
      </main>
    </div>
  );
}

/** What goes with a medium: its mount table, one that exists checked against it, steps by hand, and ids. */
export function HandOverScreen(props: Props) {
  return (
    <DesignerProvider view={props.view}>
      <Screen {...props} />
    </DesignerProvider>
  );
}
