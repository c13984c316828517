'use client';

import type { MediumSpec } from '@/core/layout/document';
import { CYLINDERS, LAYOUT_NAME_LIMIT } from '@/core/layout/vocabulary';
import { followsFormula, KIND_NAMES, MEDIUM_KINDS, type MediumKind, usualFloor } from '@/core/medium/medium';
import { exactBytes } from '@/core/quantity/size-language';
import { grouped, inBoth } from '@/core/quantity/units';
import { Choice, type Option } from '../../kit/Choice';
import { exactEcho } from '../../kit/size-echo';
import { type Echo, TextField } from '../../kit/TextField';
import { useDesigner } from '../state/context';
import { nameEcho } from '../state/editing';
import { Fields, PanelHead } from './panel';

/** Logical and physical sector sizes that media have. */
const SECTOR_SIZES = {
  '512/512': { logicalSector: 512, physicalSector: 512 },
  '512/4096': { logicalSector: 512, physicalSector: 4096 },
  '4096/4096': { logicalSector: 4096, physicalSector: 4096 },
} as const;

const SECTOR_OPTIONS: readonly Option<keyof typeof SECTOR_SIZES>[] = [
  { value: '512/512', text: '512 B' },
  { value: '512/4096', text: '512 in 4096 B' },
  { value: '4096/4096', text: '4096 B' },
];

function storyEcho(draft: string): Echo | undefined {
  return draft.length > 400 ? { wrong: true, text: 'At most 400 characters.' } : undefined;
}

function floorEcho(draft: string): Echo {
  const n = Number(draft);
  return Number.isInteger(n) && n >= 50 && n <= 100
    ? { wrong: false, text: 'per cent of the nominal size that every such medium holds' }
    : { wrong: true, text: 'A whole number from 50 to 100.' };
}

interface FieldProps {
  readonly medium: MediumSpec;
  readonly change: (patch: Partial<MediumSpec>) => void;
}

function CapacityFields({ medium, change }: FieldProps) {
  const { capacity, kind, logicalSector } = medium;
  const text = 'nominal' in capacity ? capacity.nominal : capacity.exact;
  const isNominal = 'nominal' in capacity;
  const usesFormula = isNominal && followsFormula(kind, exactBytes(capacity.nominal, logicalSector));
  return (
    <>
      <span className="text-soft">Capacity</span>
      <Choice
        label="Capacity"
        value={isNominal ? 'nominal' : 'exact'}
        options={[
          { value: 'nominal', text: 'any of its size' },
          { value: 'exact', text: 'exactly' },
        ]}
        onChange={(value) => change({ capacity: value === 'nominal' ? { nominal: text } : { exact: text } })}
      />
      <TextField
        label={isNominal ? 'Sold as' : 'Exactly'}
        mono
        value={text}
        echo={exactEcho(logicalSector)}
        onCommit={(size) =>
          change({ capacity: isNominal ? { ...capacity, nominal: size.trim() } : { exact: size.trim() } })
        }
      />
      {isNominal && !usesFormula && (
        <TextField
          label="Floor"
          mono
          value={String(capacity.floor ?? usualFloor(kind))}
          echo={floorEcho}
          onCommit={(floor) => change({ capacity: { nominal: capacity.nominal, floor: Number(floor) } })}
        />
      )}
    </>
  );
}

/** Its kind, its capacity, and the sizes in which it is written and read best. */
function MediumFields({ medium, change }: FieldProps) {
  const { sectorSize } = useDesigner((state) => state.placement);
  return (
    <>
      <span className="text-soft">Medium</span>
      <Choice<MediumKind>
        label="Kind of medium"
        value={medium.kind}
        options={MEDIUM_KINDS.map((kind) => ({
          value: kind,
          text: KIND_NAMES[kind].replace(' file', '').replace('solid-state disk', 'solid-state'),
        }))}
        onChange={(kind) => change({ kind })}
      />
      <CapacityFields medium={medium} change={change} />
      <TextField
        label="Write unit"
        mono
        value={medium.writeUnit ?? ''}
        placeholder="not known"
        echo={exactEcho(sectorSize, { empty: 'not known: the grain is used for data areas' })}
        onCommit={(text) => change({ writeUnit: text.trim() === '' ? undefined : text.trim() })}
      />
      <TextField
        label="Optimal I/O"
        mono
        value={medium.optimalIo ?? ''}
        placeholder="not reported"
        echo={exactEcho(sectorSize, { empty: 'as the device reports it, where it does' })}
        onCommit={(text) => change({ optimalIo: text.trim() === '' ? undefined : text.trim() })}
      />
    </>
  );
}

/** Its sectors, and those of the device that an image goes onto. */
function SectorFields({ medium, change }: FieldProps) {
  return (
    <>
      <span className="text-soft">Sectors</span>
      <Choice<keyof typeof SECTOR_SIZES>
        label="Logical and physical sectors"
        value={medium.logicalSector === 4096 ? '4096/4096' : `512/${medium.physicalSector}`}
        options={SECTOR_OPTIONS}
        onChange={(value) => change(SECTOR_SIZES[value])}
      />
      {medium.kind === 'image' && (
        <>
          <span className="text-soft">Goes onto</span>
          <Choice<'unknown' | '512' | '4096'>
            label="Sectors of the device that the image goes onto"
            dense
            value={medium.goesOnto === undefined ? 'unknown' : (`${medium.goesOnto}` as '512' | '4096')}
            options={[
              { value: 'unknown', text: 'not said' },
              { value: '512', text: 'sectors of 512' },
              { value: '4096', text: 'of 4096 B' },
            ]}
            onChange={(value) => change({ goesOnto: value === 'unknown' ? undefined : value === '512' ? 512 : 4096 })}
          />
        </>
      )}
    </>
  );
}

/** Properties of the layout as a whole: what it is for and what it lies on. */
export function LayoutPanel() {
  const { name, story, medium, grain, date } = useDesigner((state) => state.document);
  const placement = useDesigner((state) => state.placement);
  const commit = useDesigner((state) => state.commit);
  const changeMedium = (patch: Partial<MediumSpec>) =>
    commit({ do: 'change layout', patch: { medium: { ...medium, ...patch } } });
  const bytes = placement.sectors * placement.sectorSize;
  return (
    <>
      <PanelHead
        title="Layout and medium"
        detail={`${grouped(placement.sectors)} sectors of ${placement.sectorSize} bytes, ${inBoth(bytes)}`}
      />
      <Fields>
        <TextField
          label="Name"
          value={name}
          echo={nameEcho('A layout', LAYOUT_NAME_LIMIT)}
          onCommit={(text) => commit({ do: 'change layout', patch: { name: text.trim() } })}
        />
        <TextField
          label="Story"
          value={story ?? ''}
          placeholder="what it is for"
          echo={storyEcho}
          onCommit={(text) => commit({ do: 'change layout', patch: { story: text === '' ? undefined : text } })}
        />
      </Fields>
      <Fields>
        <MediumFields medium={medium} change={changeMedium} />
        <TextField
          label="Grain"
          mono
          value={grain ?? ''}
          placeholder="by rule"
          suggestions={[{ value: CYLINDERS, text: 'for machines that compute with cylinders' }]}
          echo={(draft) =>
            draft.trim() === CYLINDERS
              ? { wrong: false, text: 'for old machines: the first partition at sector 63, the others on cylinders' }
              : exactEcho(placement.sectorSize, { empty: `by rule: ${placement.grain.because}` })(draft)
          }
          onCommit={(text) =>
            commit({ do: 'change layout', patch: { grain: text.trim() === '' ? undefined : text.trim() } })
          }
        />
        <SectorFields medium={medium} change={changeMedium} />
        <TextField
          label="Date inside"
          mono
          value={date}
          echo={dateEcho}
          onCommit={(text) => commit({ do: 'change layout', patch: { date: text } })}
        />
      </Fields>
    </>
  );
}

function dateEcho(draft: string): Echo {
  return /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d$/.test(draft)
    ? { wrong: false, text: 'the time written into file systems' }
    : { wrong: true, text: 'As in 2026-03-01T12:00:00.' };
}
