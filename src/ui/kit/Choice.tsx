'use client';

import { useId } from 'react';

export interface Option<Value extends string> {
  readonly value: Value;
  readonly text: string;
  /** Why it cannot be chosen now; shown as its tooltip. */
  readonly disabled?: string | undefined;
}

const GROUP = 'inline-flex w-fit max-w-full flex-wrap gap-px overflow-hidden rounded-[5px] border border-edge bg-line';
const ITEM =
  'relative flex min-h-[24px] grow items-center justify-center bg-card text-center has-checked:bg-slate has-checked:text-on-slate has-disabled:text-soft has-disabled:line-through has-disabled:opacity-60 has-focus-visible:z-10 has-focus-visible:outline-2 has-focus-visible:-outline-offset-2 has-focus-visible:outline-clay';

interface ItemProps {
  readonly kind: 'radio' | 'checkbox';
  readonly name: string;
  readonly option: Option<string>;
  readonly checked: boolean;
  readonly onChange: () => void;
  readonly dense: boolean;
}

/** One of the choices: a mark of the browser's own, invisible over its text, so that keys and readers know it. */
function Item({ kind, name, option, checked, onChange, dense }: ItemProps) {
  return (
    <label className={`${ITEM} ${dense ? 'px-1.5 text-sm max-[1180px]:px-1' : 'px-2'}`} title={option.disabled}>
      <input
        type={kind}
        name={name}
        checked={checked}
        disabled={option.disabled !== undefined}
        onChange={onChange}
        className="absolute inset-0 cursor-pointer appearance-none opacity-0 disabled:cursor-default"
      />
      {option.text}
    </label>
  );
}

interface Props<Value extends string> {
  readonly label: string;
  readonly value: Value;
  readonly options: readonly Option<Value>[];
  readonly onChange: (value: Value) => void;
  readonly dense?: boolean;
}

/** One of a few, side by side: arrow keys choose. */
export function Choice<Value extends string>({ label, value, options, onChange, dense = false }: Props<Value>) {
  const name = useId();
  return (
    <div role="radiogroup" aria-label={label} className={GROUP}>
      {options.map((option) => (
        <Item
          key={option.value}
          kind="radio"
          name={name}
          option={option}
          checked={option.value === value}
          onChange={() => onChange(option.value)}
          dense={dense}
        />
      ))}
    </div>
  );
}

interface SeveralProps<Value extends string> {
  readonly label: string;
  readonly values: readonly Value[];
  readonly options: readonly Option<Value>[];
  readonly onChange: (values: Value[]) => void;
  readonly dense?: boolean;
}

/** Any of a few, side by side. */
export function SeveralChoice<Value extends string>({
  label,
  values,
  options,
  onChange,
  dense = false,
}: SeveralProps<Value>) {
  const name = useId();
  const toggled = (value: Value) =>
    values.includes(value) ? values.filter((one) => one !== value) : [...values, value];
  return (
    <div role="group" aria-label={label} className={GROUP}>
      {options.map((option) => (
        <Item
          key={option.value}
          kind="checkbox"
          name={name}
          option={option}
          checked={values.includes(option.value)}
          onChange={() => onChange(toggled(option.value))}
          dense={dense}
        />
      ))}
    </div>
  );
}
