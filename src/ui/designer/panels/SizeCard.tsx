/** Ways to say a size, and what each means; the words behind the stroke mean the same. */
const WAYS: readonly (readonly [text: string, meaning: string])[] = [
  ['512 MiB  40 GB  2048 sectors', 'exactly this; bare M and G are binary'],
  ['1500 × 1 MiB', 'so many blocks; × may be * or x'],
  ['rest / all, max, remaining', 'what the others leave, shared evenly'],
  ['rest × 2', 'two shares of it'],
  ['rest, at least 8 GiB', 'a share with bounds; also at most'],
  ['up to 20 GiB', 'a share of 20 GiB at most'],
  ['25 %', 'of the space between the table areas'],
  ['ending at 20 GiB / to 20 GiB', 'as far as that position of the medium'],
  ['same as System A / as large as …', 'as many sectors as that slot'],
  ['memory / ram', 'of the machine; also memory × 1.5'],
  ['its image', 'as large as what is put into it'],
];

/** The size language on a small card. */
export function SizeCard() {
  return (
    <dl aria-label="How sizes are said" className="mt-1 rounded-[5px] border border-line bg-paper px-2 py-1 text-sm">
      {WAYS.map(([text, meaning]) => (
        <div key={text} className="border-b border-hair py-0.5 last:border-b-0">
          <dt className="font-mono">{text}</dt>
          <dd className="text-soft">{meaning}</dd>
        </div>
      ))}
    </dl>
  );
}
