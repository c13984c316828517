'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import type { LayoutView } from '@/contract/layouts';
import type { LedgerView, SurveyView } from '@/contract/surveys';
import { grouped, inBoth } from '@/core/quantity/units';
import { getSector, keepInLayout, proposalUrl, surveyUrl } from '../api';
import { Patterns } from '../column/Patterns';
import { Button, buttonClass } from '../kit/Button';
import { Choice } from '../kit/Choice';
import { TopBar } from '../kit/TopBar';
import { LedgerTable } from '../ledger/Ledger';
import { Columns } from './Columns';
import { FoundFindings } from './FoundFindings';
import { FoundPanel } from './FoundPanel';
import { type FoundLayer, layersOf } from './layers';

/** What the panel at the side is about. */
type Selection =
  { readonly kind: 'layer'; readonly key: string } | { readonly kind: 'sector'; readonly sector: number };

const TABLES = { mbr: 'MBR', gpt: 'GPT', none: 'none' } as const;

function Facts({ view }: { view: SurveyView }) {
  const { survey, milliseconds } = view;
  const router = useRouter();
  return (
    <div className="flex h-[54px] items-center gap-6 overflow-hidden border-b border-line px-4">
      <span>
        <span className="block text-xs text-soft">Image</span>
        <span className="font-mono text-sm">
          {inBoth(survey.size)} · {grouped(survey.sectors)} sectors
        </span>
      </span>
      <span>
        <span className="block text-xs text-soft">Table</span>
        <b className="font-semibold">{TABLES[survey.table]}</b>
      </span>
      <span>
        <span className="block text-xs text-soft">Read</span>
        {inBoth(survey.read)} in {Math.ceil(milliseconds)} ms
      </span>
      <span className="flex-1" />
      <span className="text-soft">{view.isGuess ? 'sector size found out' : 'sector size chosen'}</span>
      <Choice
        label="Sector size"
        value={String(survey.sectorSize)}
        options={[
          { value: '512', text: '512 B' },
          { value: '4096', text: '4096 B' },
        ]}
        onChange={(size) => router.push(`${surveyUrl(view.of)}&sectorSize=${size}`)}
      />
    </div>
  );
}

/** The ledger of an image: each sector comes from the server. */
function ImageLedger({ view, sector, onGo }: { view: SurveyView; sector: number; onGo: (sector: number) => void }) {
  const [opened, setOpened] = useState<LedgerView>();
  const [refused, setRefused] = useState<string>();
  const { of, survey } = view;
  useEffect(() => {
    let isLatest = true;
    void getSector(of, survey.sectorSize, sector).then((answer) => {
      if (!isLatest) return;
      setRefused(answer.ok ? undefined : answer.error.sentence);
      if (answer.ok) setOpened(answer.value);
    });
    return () => {
      isLatest = false;
    };
  }, [of, survey.sectorSize, sector]);
  if (refused)
    return (
      <p role="alert" className="text-stop">
        {refused}
      </p>
    );
  if (!opened) return <p className="text-soft">Reading sector {grouped(sector)} …</p>;
  return <LedgerTable sector={opened.ledger} sectors={opened.sectors} stops={opened.stops} onGo={onGo} />;
}

function LayoutBeside({
  layouts,
  value,
  onChange,
}: {
  layouts: readonly LayoutView[];
  value: string;
  onChange: (id: string) => void;
}) {
  return (
    <label className="flex items-center gap-2 px-4 py-1.5">
      <span className="text-soft">Beside it</span>
      <select
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className="rounded-[5px] border border-edge bg-card px-1 py-[3px]"
      >
        <option value="">no layout</option>
        {layouts.map((one) => (
          <option key={one.id} value={one.id}>
            {one.document.name}
          </option>
        ))}
      </select>
    </label>
  );
}

/** What can be done with the image by itself: each is shown before it is done, and makes a new image. */
function ImageActions({ of, sectorSize }: { of: string; sectorSize: number }) {
  return (
    <nav aria-label="What can be done with it" className="flex gap-1.5 pr-4">
      <Link className={buttonClass()} href={proposalUrl({ of, sectorSize, does: 'repair' })}>
        Mend it
      </Link>
      <Link className={buttonClass()} href={proposalUrl({ of, sectorSize, does: 'cut' })}>
        Cut its end
      </Link>
      <Link className={buttonClass()} href={proposalUrl({ of, sectorSize, does: 'clear' })}>
        Clear it
      </Link>
    </nav>
  );
}

/** The screen of a survey: the found column, a layout's beside it, and every sector in the ledger. */
export function SurveyScreen({
  view,
  layouts,
  layoutId,
}: {
  view: SurveyView;
  layouts: readonly LayoutView[];
  layoutId: string | undefined;
}) {
  const [selection, setSelection] = useState<Selection>({ kind: 'sector', sector: 0 });
  const [beside, setBeside] = useState(layoutId ?? '');
  const router = useRouter();
  const [refused, setRefused] = useState<string>();
  const keep = async () => {
    const answer = await keepInLayout(view.of, view.survey.sectorSize);
    if (answer.ok) router.push(`/layouts/${answer.value.id}`);
    else setRefused(answer.error.sentence);
  };
  const layers = layersOf(view.survey);
  const layout = layouts.find((one) => one.id === beside);
  const select = ({ key }: FoundLayer) => setSelection({ kind: 'layer', key });
  const go = (sector: number) => setSelection({ kind: 'sector', sector });
  // A container is no layer: it is the records and partitions that it holds.
  const goToPartition = (key: string) => {
    const partition = view.survey.partitions.find((one) => one.key === key);
    const sector = Math.min(partition?.start ?? 0, view.survey.sectors - 1);
    setSelection(layers.some((one) => one.key === key) ? { kind: 'layer', key } : { kind: 'sector', sector });
  };
  const layer = selection.kind === 'layer' ? layers.find((one) => one.key === selection.key) : undefined;
  return (
    <div className="flex h-(--page) min-w-[960px] flex-col overflow-hidden">
      <Patterns />
      <TopBar title={view.name} detail="survey: read, never written">
        {refused && (
          <span role="alert" className="text-stop">
            {refused}
          </span>
        )}
        <Button look="primary" onClick={() => void keep()} disabled={view.survey.sectors === 0}>
          Keep it in a layout
        </Button>
        <Link className={buttonClass()} href="/">
          Back to the shelf
        </Link>
      </TopBar>
      <Facts view={view} />
      <main
        id="main"
        tabIndex={-1}
        className="grid min-h-0 flex-1 grid-cols-[1fr_380px] max-[1180px]:grid-cols-[1fr_324px]"
      >
        <section aria-label="Columns" className="flex min-h-0 min-w-0 flex-col">
          <div className="flex items-center gap-2">
            <LayoutBeside layouts={layouts} value={beside} onChange={setBeside} />
            <span className="flex-1" />
            {view.survey.sectors > 0 && <ImageActions of={view.of} sectorSize={view.survey.sectorSize} />}
          </div>
          <Columns
            layers={layers}
            sectorSize={view.survey.sectorSize}
            findings={view.findings}
            selected={layer?.key}
            onSelect={select}
            onOpen={(one) => go(one.start)}
            layout={layout?.document}
          />
        </section>
        <aside aria-label="Details" className="overflow-y-auto border-l border-line bg-card px-4 py-3">
          {layer && <FoundPanel layer={layer} of={view.of} sectorSize={view.survey.sectorSize} onOpen={go} />}
          {selection.kind === 'sector' && view.survey.sectors > 0 && (
            <ImageLedger view={view} sector={selection.sector} onGo={go} />
          )}
        </aside>
      </main>
      <FoundFindings
        of={view.of}
        sectorSize={view.survey.sectorSize}
        findings={view.findings}
        partitions={view.survey.partitions}
        onPartition={goToPartition}
        onSector={go}
      />
    </div>
  );
}
