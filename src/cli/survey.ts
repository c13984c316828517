/** `survey`: what is in an image, and any sector of it field by field. */
import { REPAIRS } from '@/core/change/repair';
import { checkSurvey } from '@/core/findings/survey/check';
import type { SurveyFinding } from '@/core/findings/survey/finding';
import { grouped, inBoth } from '@/core/quantity/units';
import { lastOf, type Survey } from '@/core/survey/found';
import { type Ledger, ledgerOf } from '@/core/survey/ledger';
import { insideText, named, structureAt, structuresOf } from '@/core/survey/structures';
import { typeName } from '@/core/tables/types';
import { type Answer, answerText } from './answering';
import type { Answers } from './answers';
import { Ended, EXIT, type Exit } from './exit';
import type { Io } from './io';
import { surveyed, withImage } from './open-image';
import { columns, printable, word } from './text';

/** A survey as a table of partitions, gaps with data, and findings. */
function surveyText(survey: Survey, findings: readonly SurveyFinding[], image: string): string {
  const { sectors, sectorSize, size, table } = survey;
  const rows = survey.partitions.map((one) => [
    one.number === 0 ? '-' : String(one.number),
    named(one),
    grouped(one.start),
    grouped(lastOf(one)),
    grouped(one.sectors),
    one.type === '' ? '-' : typeName(one.type),
    insideText(one.inside),
  ]);
  const head = `${inBoth(size)}, ${grouped(sectors)} sectors of ${sectorSize} bytes, table: ${table}; ${inBoth(survey.read)} read\n`;
  const partitions = columns(['no', 'partition', 'first', 'last', 'sectors', 'type', 'inside'], rows, [0, 2, 3, 4]);
  const lines = findings
    .map((one) => {
      const repairs = REPAIRS.filter(({ rules }) => rules.includes(one.rule));
      const mends = repairs.map(({ id }) => `    mend it: loess repair ${word(image)} --only ${id}\n`).join('');
      return `${one.severity}: ${one.sentence}\n    ${one.why}\n${mends}    rule: ${one.rule}\n`;
    })
    .join('');
  return head + partitions + (lines || 'Nothing was found.\n');
}

/** A sector of the ledger: fields, then bytes. */
function ledgerText(ledger: Ledger): string {
  const groups = ledger.groups.map(({ title, fields }) => {
    const rows = fields.map((field) => [String(field.offset), field.name, field.text, field.means]);
    return `${title}\n${rows.length > 0 ? columns(['at', 'field', 'value', 'meaning'], rows, [0]) : ''}`;
  });
  const lines = ledger.lines.map(({ offset, hex, text }) => `${String(offset).padStart(5)}  ${hex}  ${text}`);
  return `Sector ${grouped(ledger.sector)}, byte ${grouped(ledger.at)}: ${ledger.what}\n${groups.join('')}${lines.join('\n')}\n`;
}

export interface SurveyArguments {
  readonly sectorSize?: 512 | 4096;
  readonly sector?: number;
  readonly json?: boolean;
}

/** A survey for machines. */
function surveyData(survey: Survey, findings: readonly SurveyFinding[]): Answer<Answers['survey']> {
  const { mbr, gpt, iso, partitions } = survey;
  return {
    survey: {
      ...survey,
      mbr: mbr && { ...mbr, records: mbr.records.map((one) => ({ ...one })) },
      gpt: { first: gpt.first && { ...gpt.first }, copy: gpt.copy && { ...gpt.copy } },
      partitions: partitions.map((one) => ({ ...one, inside: { ...one.inside } })),
      iso: iso && { ...iso },
    },
    findings,
  };
}

/** A sector for machines. */
function ledgerData({ groups, ...ledger }: Ledger): Answer<Answers['sector']> {
  return { ...ledger, groups };
}

/** `survey`: what is in an image file; with `--sector`, one sector of it field by field. */
export function survey(io: Io, image: string, options: SurveyArguments): Promise<Exit> {
  return withImage(image, async (source) => {
    const found = await surveyed(source, options.sectorSize);
    if (options.sector === undefined) {
      const findings = checkSurvey(found);
      io.out(
        options.json
          ? answerText('survey', surveyData(found, findings))
          : printable(surveyText(found, findings, image)),
      );
      return findings.some((one) => one.severity === 'stop') ? EXIT.stop : EXIT.done;
    }
    const { sector } = options;
    if (sector >= found.sectors)
      throw new Ended(
        EXIT.usage,
        'sector-beyond-the-end',
        `The image has ${grouped(found.sectors)} sectors; the last is ${grouped(found.sectors - 1)}.`,
      );
    const bytes = await source.read(sector * found.sectorSize, found.sectorSize);
    const ledger = ledgerOf(bytes, sector, structureAt(structuresOf(found), sector));
    io.out(options.json ? answerText('sector', ledgerData(ledger)) : printable(ledgerText(ledger)));
    return EXIT.done;
  });
}
