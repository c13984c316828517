'use client';

import { ToggleGroup } from 'radix-ui';

export interface Option<Value extends string> {
  readonly value: Value;
  readonly text: string;
  /** Why it cannot be chosen now; shown as its tooltip. */
  readonly disabled?: string | undefined;
}

const ITEM =
  'py-[3px] border-r border-line last:border-r-0 data-[state=on]:bg-slate data-[state=on]:text-on-slate disabled:text-soft disabled:opacity-60 disabled:line-through focus-visible:-outline-offset-2';

interface Props<Value extends string> {
  readonly label: string;
  readonly value: Value;
  readonly options: readonly Option<Value>[];
  readonly onChange: (value: Value) => void;
  readonly dense?: boolean;
}

/** One of a few, side by side. */
export function Choice<Value extends string>({ label, value, options, onChange, dense = false }: Props<Value>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as Value)}
      className="inline-flex w-fit flex-wrap overflow-hidden rounded-[5px] border border-edge bg-card"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          disabled={option.disabled !== undefined}
          title={option.disabled}
          className={`${ITEM} ${dense ? 'px-1.5 text-sm' : 'px-2'}`}
        >
          {option.text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
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
  return (
    <ToggleGroup.Root
      type="multiple"
      aria-label={label}
      value={[...values]}
      onValueChange={(next) => onChange(next as Value[])}
      className="inline-flex w-fit flex-wrap overflow-hidden rounded-[5px] border border-edge bg-card"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          disabled={option.disabled !== undefined}
          title={option.disabled}
          className={`${ITEM} ${dense ? 'px-1.5 text-sm' : 'px-2'}`}
        >
          {option.text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
