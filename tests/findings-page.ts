/** The page of all findings, made from the rules: each speaks about the layout or image that its test uses. */
import { check } from '@/core/findings/layout/check';
import { checkSurvey } from '@/core/findings/survey/check';
import { placeWritten } from '@/core/naming/written';
import { surveyMedium } from '@/core/survey/survey';
import { CASES } from './finding-cases/all';
import { DAMAGES } from './found-damages';

interface Told {
  readonly rule: string;
  readonly severity: string;
  readonly sentence: string;
  readonly why: string;
  readonly remedies?: readonly { readonly label: string }[];
  readonly fileRemedies?: readonly { readonly label: string }[];
}

const cell = (text: string): string => text.replaceAll('|', '\\|').replaceAll('\n', ' ');

function table(findings: readonly Told[], withRemedies: boolean): string {
  const head = withRemedies
    ? '| rule | | says, for instance | why | remedies |\n| --- | --- | --- | --- | --- |'
    : '| rule | | says, for instance | why |\n| --- | --- | --- | --- |';
  const rows = findings.map(({ rule, severity, sentence, why, remedies = [], fileRemedies = [] }) => {
    const labels = [...remedies, ...fileRemedies].map(({ label }) => `“${label}”`).join(', ') || '–';
    const cells = [`\`${rule}\``, severity, sentence, why, ...(withRemedies ? [labels] : [])];
    return `| ${cells.map(cell).join(' | ')} |`;
  });
  return [head, ...rows].join('\n');
}

function ofLayouts(): Told[] {
  return CASES.map(({ rule, bad, contents }) => check(placeWritten(bad, contents)).find((one) => one.rule === rule)!);
}

async function ofSurveys(): Promise<Told[]> {
  const found = new Map<string, Told>();
  for (const [, make, , sectorSize] of DAMAGES) {
    const image = make();
    const survey = await surveyMedium(image, { sectorSize: sectorSize ?? image.sectorSize });
    for (const one of checkSurvey(survey)) if (!found.has(one.rule)) found.set(one.rule, one);
  }
  return [...found.values()].sort((a, b) => a.rule.localeCompare(b.rule));
}

/** The text of docs/findings.md. */
export async function findingsPage(): Promise<string> {
  const [layouts, surveys] = [ofLayouts(), await ofSurveys()];
  return `# Findings

Made from the rules by \`npm run findings\`; a test keeps it current. Code: \`src/core/findings/\`.

A finding says what is wrong, with figures, why it matters, and where; most of those about a layout offer **remedies**, each one edit that can be undone. Nothing is deleted by a remedy that does not say so.

- **stop**: would be invalid, or surely not work. No build.
- **risk**: works here, may fail there. It is mended, or accepted with a reason. The reason becomes part of the document and of the build's report; it holds for the sentence as it was, so that the risk comes back when its figures change.
- **note**: advice.

## About a layout: ${layouts.length} rules

${table(layouts, true)}

## About what a survey found: ${surveys.length} rules

The same three words; they block no build of a layout.

${table(surveys, false)}
`;
}
