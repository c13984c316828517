import type { Option } from './Choice';

interface Props<Value extends string> {
  readonly label: string;
  readonly value: Value;
  readonly options: readonly Option<Value>[];
  readonly onChange: (value: Value) => void;
}

/** One of many, from a list. */
export function Select<Value extends string>({ label, value, options, onChange }: Props<Value>) {
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value as Value)}
      className="w-full min-w-0 rounded-[5px] border border-edge bg-paper px-1 py-[3px]"
    >
      {options.map((option) => (
        <option key={option.value} value={option.value}>
          {option.text}
        </option>
      ))}
    </select>
  );
}
