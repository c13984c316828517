/** Goes to a field, if it is on the screen, and chooses its text. */
export function focusField(id: string): void {
  const field = document.getElementById(id);
  if (!(field instanceof HTMLInputElement)) return;
  field.focus();
  field.select();
}
