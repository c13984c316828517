'use client';

import type { ReactNode } from 'react';
import {
  BOOT_ANSWERS,
  type BootAnswer,
  type ExistingAnswer,
  READER_ANSWERS,
  type ReaderAnswer,
  USE_ANSWERS,
  type UseAnswer,
  SECTORS,
} from '@/core/advice/answers';
import type { MediumSpec } from '@/core/layout/document';
import { mediumOf } from '@/core/layout/medium-spec';
import { possibleTables } from '@/core/advice/propose';
import {
  BIOS_LIMIT_NAMES,
  type BiosLimit,
  type LoaderBringer,
  TABLE_NAMES,
  type TableKind,
} from '@/core/layout/vocabulary';
import { BOARD_FAMILIES, type BoardFamily, boardProfile } from '@/core/medium/boards';
import { KIND_NAMES, MEDIUM_KINDS, type MediumKind } from '@/core/medium/medium';
import { grouped, inBoth } from '@/core/quantity/units';
import { Choice } from '../kit/Choice';
import { Select } from '../kit/Select';
import { exactEcho } from '../kit/size-echo';
import { type Echo, TextField } from '../kit/TextField';
import { type Answering, drafting } from './answering';

const BOOT_TEXTS: Readonly<Record<BootAnswer, string>> = {
  uefi: 'UEFI',
  bios: 'a BIOS',
  both: 'both',
  board: 'a board',
  nothing: 'nothing',
  unknown: 'don’t know',
};
const USE_TEXTS: Readonly<Record<UseAnswer, string>> = {
  desktop: 'a desktop',
  server: 'a server',
  device: 'a device',
  data: 'data only',
  unknown: 'don’t know',
};
const READER_TEXTS: Readonly<Record<ReaderAnswer, string>> = {
  linux: 'only Linux',
  others: 'other systems',
  appliances: 'cameras, printers, instruments',
  unknown: 'don’t know',
};

/** Where a loader is brought by somebody. */
const BROUGHT: readonly BootAnswer[] = ['uefi', 'bios', 'both', 'unknown'];
/** What could be said, shown where something cannot be read. */
const SOLD = ['32 GB', '500 GB', '64 MB'];
const PLACES = ['10 GB', '420 GB', '64 GiB'];
const MEMORIES = ['8 GiB', '16 GiB', '512 MiB'];

/** Figures stand below the fields; a field says only what is wrong. */
function onlyWrong(echo: (draft: string) => Echo): (draft: string) => Echo | undefined {
  return (draft) => (echo(draft).wrong ? echo(draft) : undefined);
}

function Question({ number, title, children }: { number: number; title: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="grid grid-cols-[22px_1fr] gap-x-2 border-b border-hair py-2">
      <span className="text-right font-mono text-soft">{number}</span>
      <div>
        <h2 className="mb-1 font-semibold">{title}</h2>
        <div className="grid gap-1.5">{children}</div>
      </div>
    </section>
  );
}

function SizeFields({ answers, shown, change: say, typed }: Answering) {
  const { medium } = answers;
  const change = (next: MediumSpec) => say({ medium: next });
  const text = 'nominal' in medium.capacity ? medium.capacity.nominal : medium.capacity.exact;
  const isNominal = 'nominal' in medium.capacity;
  const capacityOf = (size: string, nominal: boolean) => (nominal ? { nominal: size } : { exact: size });
  const bytes = shown && mediumOf(shown.medium).capacity;
  return (
    <>
      <div className="grid grid-cols-[150px_1fr] items-center gap-2">
        <Select<MediumKind>
          label="Kind of medium"
          value={medium.kind}
          options={MEDIUM_KINDS.map((value) => ({ value, text: KIND_NAMES[value] }))}
          onChange={(kind) => change({ ...medium, kind, capacity: capacityOf(text, kind !== 'image') })}
        />
        <Choice
          label="Capacity"
          dense
          value={isNominal ? 'nominal' : 'exact'}
          options={[
            { value: 'nominal', text: 'any of its size' },
            { value: 'exact', text: 'exactly' },
          ]}
          onChange={(value) => change({ ...medium, capacity: capacityOf(text, value === 'nominal') })}
        />
      </div>
      <div className="grid grid-cols-[64px_170px_1fr] items-start gap-x-2">
        <TextField
          label={isNominal ? 'Sold as' : 'Exactly'}
          mono
          value={text}
          echo={onlyWrong(exactEcho(medium.logicalSector, { examples: SOLD }))}
          onTyped={drafting('How big', typed, (size) => ({
            medium: { ...medium, capacity: capacityOf(size.trim(), isNominal) },
          }))}
          onCommit={(size) => change({ ...medium, capacity: capacityOf(size.trim(), isNominal) })}
        />
        <Choice<keyof typeof SECTORS>
          label="Logical and physical sectors"
          dense
          value={medium.logicalSector === 4096 ? '4096' : medium.physicalSector === 4096 ? '512 in 4096' : '512'}
          options={[
            { value: '512', text: '512 B' },
            { value: '512 in 4096', text: '512 in 4096' },
            { value: '4096', text: '4096 B' },
          ]}
          onChange={(value) => change({ ...medium, ...SECTORS[value] })}
        />
      </div>
      {bytes !== undefined && (
        <p className="font-mono text-sm text-soft">
          {isNominal ? 'at least ' : ''}
          {inBoth(bytes)} · {grouped(Math.floor(bytes / medium.logicalSector))} sectors of {medium.logicalSector}
        </p>
      )}
      <TableChoice answers={answers} change={say} />
    </>
  );
}

function ExistingFields({ answers: { existing }, change, typed }: Answering) {
  const stays = existing.kind === 'stays' ? existing : undefined;
  const field = (which: 'from' | 'until', label: string) =>
    stays && (
      <TextField
        label={label}
        mono
        value={stays[which]}
        echo={onlyWrong(exactEcho(512, { zero: which === 'from', examples: PLACES }))}
        onTyped={drafting(`Free ${which}`, typed, (text) => ({ existing: { ...stays, [which]: text.trim() } }))}
        onCommit={(text) => change({ existing: { ...stays, [which]: text.trim() } })}
      />
    );
  return (
    <>
      <Choice<ExistingAnswer['kind']>
        label="What is on it now"
        value={existing.kind}
        options={[
          { value: 'nothing', text: 'nothing that is wanted' },
          { value: 'stays', text: 'something must stay' },
          { value: 'unknown', text: 'don’t know' },
        ]}
        onChange={(kind) => change({ existing: kind === 'stays' ? { kind, from: '10 GB', until: '20 GB' } : { kind } })}
      />
      {stays && (
        <>
          <div className="grid grid-cols-[64px_110px_40px_110px] items-start gap-x-2">
            {field('from', 'Free from')}
            {field('until', 'up to')}
          </div>
          <p className="text-sm text-risk">
            Loess plans inside this range and leaves the rest of the column free. It does not take over the partitions
            that stay: they are not in the table of the image that is built. Use it as a plan; do not write that image
            over the medium.
          </p>
        </>
      )}
    </>
  );
}

/** What else is asked of a board, or of an old BIOS. */
function BootDetails({ answers, change }: Answering) {
  return (
    <>
      {answers.boots === 'board' && (
        <Select<BoardFamily | ''>
          label="Which board"
          value={answers.board ?? ''}
          options={[
            { value: '', text: 'don’t know which board' },
            ...BOARD_FAMILIES.map((value) => ({ value, text: boardProfile(value).name })),
          ]}
          onChange={(board) => change({ board: board === '' ? undefined : board })}
        />
      )}
      {BROUGHT.includes(answers.boots) && (
        <div className="flex items-center gap-2">
          <span className="text-soft">The loader comes from</span>
          <Choice<LoaderBringer | 'unknown'>
            label="Who brings the loader"
            dense
            value={answers.loaderFrom ?? 'unknown'}
            options={[
              { value: 'installer', text: 'an installer, later' },
              { value: 'file', text: 'a file of mine' },
              { value: 'own code', text: 'Loess' },
              { value: 'unknown', text: 'don’t know' },
            ]}
            onChange={(from) => change({ loaderFrom: from === 'unknown' ? undefined : from })}
          />
        </div>
      )}
      {(answers.boots === 'bios' || answers.boots === 'both') && (
        <Select<BiosLimit | ''>
          label="How far its BIOS reads"
          value={answers.biosLimit ?? ''}
          options={[
            { value: '', text: 'its BIOS reads all of it, or don’t know' },
            ...BIOS_LIMIT_NAMES.map((value) => ({ value, text: `old: its BIOS stops at ${value}` })),
          ]}
          onChange={(limit) => change({ biosLimit: limit === '' ? undefined : limit })}
        />
      )}
    </>
  );
}

/** What people keep: a desktop has a home, a server what it serves. */
function ApartChoice({ answers, change }: Pick<Answering, 'answers' | 'change'>) {
  const { use, apart } = answers;
  if (use !== 'desktop' && use !== 'server') return null;
  return (
    <div className="flex items-center gap-2">
      <span className="text-soft">{use === 'desktop' ? 'People’s files' : 'What it serves'}</span>
      <Choice
        label={use === 'desktop' ? 'A home of its own' : 'Data of its own'}
        dense
        value={apart === undefined ? 'unknown' : apart ? 'apart' : 'together'}
        options={[
          { value: 'apart', text: use === 'desktop' ? 'a home of their own' : 'a partition of its own' },
          { value: 'together', text: 'with the system' },
          { value: 'unknown', text: 'by its size' },
        ]}
        onChange={(value) => change({ apart: value === 'unknown' ? undefined : value === 'apart' })}
      />
    </div>
  );
}

/** The table, where more than one can be. */
function TableChoice({ answers, change }: Pick<Answering, 'answers' | 'change'>) {
  const tables = possibleTables(answers);
  const chosen = answers.table ?? 'unknown';
  if (tables.length < 2 && answers.table === undefined) return null;
  return (
    <div className="flex items-center gap-2">
      <span className="text-soft">Its table</span>
      <Choice<TableKind | 'unknown'>
        label="Which table"
        dense
        value={chosen}
        options={[
          ...tables.map((value) => ({ value, text: TABLE_NAMES[value] })),
          { value: 'unknown', text: 'don’t know: by rule' },
        ]}
        onChange={(table) => change({ table: table === 'unknown' ? undefined : table })}
      />
    </div>
  );
}

function MemoryFields({ answers, change, typed }: Answering) {
  const meant = (text: string) => ({ memory: text.trim() === '' ? undefined : text.trim() });
  return (
    <div className="grid grid-cols-[64px_150px_1fr] items-start gap-x-2">
      <TextField
        label="Memory"
        mono
        value={answers.memory ?? ''}
        placeholder="don’t know"
        echo={onlyWrong(exactEcho(512, { empty: '', examples: MEMORIES }))}
        onTyped={drafting('Memory', typed, meant)}
        onCommit={(text) => change(meant(text))}
      />
      <Choice
        label="Does it hibernate"
        dense
        value={answers.hibernates ? 'yes' : 'no'}
        options={[
          { value: 'yes', text: 'hibernates' },
          { value: 'no', text: 'no, or don’t know' },
        ]}
        onChange={(value) => change({ hibernates: value === 'yes' })}
      />
    </div>
  );
}

/** The questions of the Start, in the order in which practitioners think. */
export function Questions(answering: Answering) {
  const { answers, change } = answering;
  return (
    <>
      <Question number={1} title="What boots it?">
        <Choice<BootAnswer>
          label="What boots it"
          value={answers.boots}
          options={BOOT_ANSWERS.map((value) => ({ value, text: BOOT_TEXTS[value] }))}
          onChange={(boots) => change({ boots })}
        />
        <BootDetails {...answering} />
      </Question>
      <Question number={2} title="For what?">
        <Choice<UseAnswer>
          label="For what"
          value={answers.use}
          options={USE_ANSWERS.map((value) => ({ value, text: USE_TEXTS[value] }))}
          onChange={(use) => change({ use })}
        />
        <ApartChoice answers={answers} change={change} />
      </Question>
      <Question number={3} title="How big is it?">
        <SizeFields {...answering} />
      </Question>
      <Question number={4} title="How much memory, and does it hibernate?">
        <MemoryFields {...answering} />
      </Question>
      <Question number={5} title="Who else must read it?">
        <Choice<ReaderAnswer>
          label="Who else must read it"
          value={answers.readers}
          options={READER_ANSWERS.map((value) => ({ value, text: READER_TEXTS[value] }))}
          onChange={(readers) => change({ readers })}
        />
      </Question>
      <Question number={6} title="What is on it now?">
        <ExistingFields {...answering} />
      </Question>
    </>
  );
}
