/**
 * Fields that a key goes to. The panel of a field may still be on its way when the key is
 * pressed: then what is typed meanwhile belongs to the field, and is no shortcut.
 */

/** Longest time that a field is waited for, in milliseconds. */
const LONGEST = 3000;

let awaited: { readonly id: string; readonly since: number; readonly keys: string[] } | undefined;

function focusNow(id: string): HTMLInputElement | undefined {
  const field = document.getElementById(id);
  if (!(field instanceof HTMLInputElement)) return undefined;
  field.focus();
  field.select();
  return field;
}

/** Gives keys to a field that has the focus, as if they were typed there. */
function give(field: HTMLInputElement, keys: readonly string[]): void {
  for (const key of keys)
    if (key === 'Enter') field.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
    else document.execCommand('insertText', false, key);
}

function look(): void {
  if (!awaited) return;
  const field = focusNow(awaited.id);
  const { keys, since } = awaited;
  if (!field && performance.now() - since < LONGEST) {
    requestAnimationFrame(look);
    return;
  }
  ended();
  if (field) give(field, keys);
}

function ended(): void {
  awaited = undefined;
  window.removeEventListener('keydown', keep, { capture: true });
}

/** Goes to a field and chooses its text; `isComing` says that it will be there in a moment, if it is not yet. */
export function focusField(id: string, isComing: boolean): void {
  if (focusNow(id) || !isComing) return;
  awaited = { id, since: performance.now(), keys: [] };
  window.addEventListener('keydown', keep, { capture: true });
  requestAnimationFrame(look);
}

/** Keeps a key for the field that is awaited. Escape gives the waiting up. */
function keep(event: KeyboardEvent): void {
  if (!awaited) return;
  event.preventDefault();
  event.stopPropagation();
  if (event.key === 'Escape') ended();
  else if (event.key === 'Enter' || (event.key.length === 1 && !event.ctrlKey && !event.metaKey))
    awaited.keys.push(event.key);
}
