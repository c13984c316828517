'use client';

import type { ReactNode } from 'react';
import type { BuildView } from '@/contract/builds';
import { type BuiltImage, type Sheet, sheetOf, type SheetRow } from '@/core/handover/sheet';
import { sheetMarkdown } from '@/core/handover/sheet-text';
import { IDS } from '@/core/naming/named';
import type { MachineMedium } from '@/core/naming/nameable';
import { grouped, inBinary, inBoth, inDecimal } from '@/core/quantity/units';
import { useDesigner } from '../designer/state/context';
import { Button } from '../kit/Button';
import { CopyButton } from './CopyButton';
import { SheetColumn } from './SheetColumn';

function Part({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <section aria-label={title} className="mt-3 break-inside-avoid-page">
      <h3 className="mb-1 border-b border-edge font-semibold">{title}</h3>
      {children}
    </section>
  );
}

const Text = ({ children }: { readonly children: string }) => (
  <pre className="font-mono text-[10px] leading-[1.45] break-all whitespace-pre-wrap">{children}</pre>
);

const HEADS = ['no.', 'name', 'what', 'first', 'last', 'sectors', 'binary', 'decimal'] as const;
/** Columns of figures. */
const FIGURES = [0, 3, 4, 5, 6, 7];

function Rows({ rows }: { readonly rows: readonly SheetRow[] }) {
  return (
    <table className="w-full border-collapse text-xs">
      <thead>
        <tr className="border-b border-line text-left text-soft">
          {HEADS.map((head, i) => (
            <th key={head} className={`py-0.5 pr-2 font-normal last:pr-0 ${FIGURES.includes(i) ? 'text-right' : ''}`}>
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(({ number, name, what, exactly, isSlot, ...range }) => {
          const { first, last, sectors, bytes } = range;
          const cells = [
            number ?? '',
            isSlot ? <b className="font-semibold">{name}</b> : name,
            [...what, ...(exactly === undefined ? [] : [exactly])].join(', '),
            ...[first, last, sectors].map(grouped),
            inBinary(bytes),
            inDecimal(bytes),
          ];
          return (
            <tr key={`${first} ${name}`} className={`border-b border-hair align-top ${isSlot ? '' : 'text-soft'}`}>
              {cells.map((cell, i) => (
                <td
                  key={HEADS[i]}
                  className={`py-0.5 pr-2 last:pr-0 ${FIGURES.includes(i) ? 'text-right whitespace-nowrap tabular-nums' : ''}`}
                >
                  {cell}
                </td>
              ))}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Ids({ ids }: Pick<Sheet, 'ids'>) {
  const kinds = IDS.filter((by) => ids.partitions.some(({ identifiers }) => identifiers.some((one) => one.by === by)));
  return (
    <table className="w-full border-collapse text-xs">
      <thead>
        <tr className="border-b border-line text-left text-soft">
          <th className="py-0.5 pr-2 text-right font-normal">no.</th>
          <th className="pr-2 font-normal">slot</th>
          {kinds.map((by) => (
            <th key={by} className="pr-2 font-normal">
              {by}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {ids.partitions.map(({ of, identifiers }) => (
          <tr key={of.placed.slot.id} className="border-b border-hair align-top">
            <td className="py-0.5 pr-2 text-right tabular-nums">{of.number ?? ''}</td>
            <td className="py-0.5 pr-2 font-semibold">{of.placed.slot.name}</td>
            {kinds.map((by) => (
              <td key={by} className="py-0.5 pr-2 font-mono text-[10px] break-all">
                {identifiers.find((one) => one.by === by)?.name ?? ''}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const SEVERITIES = { stop: 'Stops a build.', risk: 'Not accepted yet.', note: '' } as const;

function Risks({ risks }: Pick<Sheet, 'risks'>) {
  if (risks.length === 0) return <p className="text-xs">None.</p>;
  return (
    <ul className="text-xs">
      {risks.map(({ place, sentence, severity, reason }) => (
        <li key={`${place} ${sentence}`} className="border-b border-hair py-0.5">
          <b className="font-semibold">{place}</b>: {sentence}{' '}
          <b className="font-semibold">{reason === undefined ? SEVERITIES[severity] : `Accepted: ${reason}`}</b>
        </li>
      ))}
    </ul>
  );
}

function Images({ images, revision }: Pick<Sheet, 'images'> & { readonly revision: number }) {
  if (images.length === 0) return <p className="text-xs">None was built yet of revision {revision}.</p>;
  return (
    <ul className="text-xs">
      {images.map(({ name, bytes, sha256 }, i) => (
        <li key={i} className="border-b border-hair py-0.5">
          {name}, revision {revision}: {inBoth(bytes)}, {grouped(bytes)} B, SHA-256{' '}
          {sha256 === undefined ? (
            'not made yet: ask for it on the Build screen'
          ) : (
            <span className="font-mono text-[10px] break-all">{sha256}</span>
          )}
        </li>
      ))}
    </ul>
  );
}

/** The finished images of one revision. */
function imagesOf(builds: readonly BuildView[], revision: number): BuiltImage[] {
  return builds
    .filter((one) => one.state === 'done' && one.revision === revision)
    .map(({ name, size, digest }) => ({ name, bytes: size, sha256: digest.sha256 ?? undefined, revision }));
}

interface Props {
  readonly media: readonly [MachineMedium, ...MachineMedium[]];
  readonly builds: readonly BuildView[];
}

/** One page for people: all that goes with the medium, as it is printed. */
export function SheetPart({ media, builds }: Props) {
  const findings = useDesigner((state) => state.findings);
  const revision = useDesigner((state) => state.view.revision);
  const [own] = media;
  const sheet = sheetOf(media, findings, imagesOf(builds, revision));
  const { title, story, facts, rows, ids, mounts, boot, risks, images, left } = sheet;
  const markdown = sheetMarkdown(sheet);
  return (
    <>
      <div className="mb-3 flex items-center gap-2 print:hidden">
        <Button onClick={() => window.print()}>Print</Button>
        <CopyButton text={markdown} name="Copy the sheet as Markdown">
          Copy as Markdown
        </CopyButton>
        <a
          className="text-soft underline hover:text-ink"
          href={`data:text/markdown;charset=utf-8,${encodeURIComponent(markdown)}`}
          download="sheet.md"
        >
          Save as Markdown
        </a>
        <span className="text-sm text-soft">
          On one sheet of A4 or Letter, unless the layout is a long one; readable in grey.
        </span>
      </div>
      <article
        aria-label="The sheet"
        className="max-w-[760px] border border-line bg-card p-5 print:max-w-none print:border-0 print:bg-transparent print:p-0 print:[zoom:0.78]"
      >
        <h2 className="text-lg font-semibold">{title}</h2>
        {story !== undefined && <p className="text-xs text-soft">{story}</p>}
        <div className="mt-2 flex gap-4">
          <SheetColumn placement={own.placement} />
          <div className="min-w-0 flex-1">
            <dl className="grid grid-cols-[80px_1fr] gap-x-2 text-xs">
              {facts.map(([name, text]) => (
                <div key={name} className="contents">
                  <dt className="text-soft">{name}</dt>
                  <dd>{text}</dd>
                </div>
              ))}
            </dl>
            <Part title="Left to do">
              <ol className="text-xs">
                {left.map(({ what, why }, i) => (
                  <li key={i} className="grid grid-cols-[14px_16px_1fr] py-0.5">
                    <span aria-hidden="true" className="mt-[3px] block h-2.5 w-2.5 border border-edge" />
                    <span className="tabular-nums">{i + 1}</span>
                    <span>
                      {what} <span className="text-soft">{why}</span>
                    </span>
                  </li>
                ))}
              </ol>
            </Part>
          </div>
        </div>
        <Part title={`Sectors of ${own.placement.sectorSize} B`}>
          <Rows rows={rows} />
        </Part>
        <Part title="Identifiers">
          <Ids ids={ids} />
        </Part>
        <Part title="Mount table">
          <Text>{mounts.replace(/\n\n+/g, '\n')}</Text>
        </Part>
        {boot.length > 0 && (
          <Part title="Boot entries">
            <div className={boot.length > 1 ? 'columns-2 gap-4' : ''}>
              {boot.map(({ path, on, text }) => (
                <div key={path} className="mb-1 break-inside-avoid">
                  <p className="text-xs">
                    {path}
                    {on ? ` on ${on.placed.slot.name}` : ', on the ESP of the machine'}
                  </p>
                  <Text>{text}</Text>
                </div>
              ))}
            </div>
          </Part>
        )}
        <Part title="Risks">
          <Risks risks={risks} />
        </Part>
        <Part title="Image">
          <Images images={images} revision={revision} />
        </Part>
      </article>
    </>
  );
}
