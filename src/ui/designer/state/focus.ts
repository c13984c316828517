import { flushSync } from 'react-dom';

/** Id of the column: where the focus is at home on the designer. */
export const COLUMN_ID = 'column';

/** Goes to a field, if it is on the screen, and chooses its text. */
function focusField(id: string): void {
  const field = document.getElementById(id);
  if (!(field instanceof HTMLInputElement)) return;
  field.focus();
  field.select();
}

/** Does what shows a field, and goes to it at once: what is typed next belongs to it. */
export function focusAfter(work: () => void, id: string): void {
  flushSync(work);
  focusField(id);
}

/** Back to the column, and to what is selected there. */
export function focusColumn(): void {
  document.getElementById(COLUMN_ID)?.focus({ preventScroll: true });
}
