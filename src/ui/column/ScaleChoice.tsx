import { Choice } from '../kit/Choice';
import type { Scale } from './geometry';

/** How columns are drawn: heights in proportion, or every stratum tall enough for its line. */
export function ScaleChoice({ value, onChange }: { value: Scale; onChange: (scale: Scale) => void }) {
  return (
    <Choice
      label="Scale of the column"
      value={value}
      options={[
        { value: 'legible', text: 'legible scale' },
        { value: 'true', text: 'true scale' },
      ]}
      onChange={onChange}
    />
  );
}
