/** When a key is a shortcut, and when it belongs to something else. */

/** Marks what letters act in: the column, or a list. */
export const LETTERS = { 'data-letters': '' } as const;

const KEY = 'loess:letters';

/** True unless a person has switched letters off. */
export function hasLetters(): boolean {
  try {
    return localStorage.getItem(KEY) !== 'off';
  } catch {
    return true;
  }
}

/** Switches letters on or off, for this browser. */
export function setLetters(isOn: boolean): void {
  try {
    if (isOn) localStorage.removeItem(KEY);
    else localStorage.setItem(KEY, 'off');
  } catch {
    // A browser without storage has letters.
  }
}

/** Fields into which text is typed; choices and marks are none. */
const TYPED = 'input:not([type="radio"]):not([type="checkbox"]), textarea, select';

/** True while a person types into a field, where letters are no shortcuts. */
function isTyping(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && (target.matches(TYPED) || target.isContentEditable);
}

/** True where a key belongs to something else: a field, a dialog, a menu. */
export function isTaken(event: Event): boolean {
  return isTyping(event.target) || document.querySelector('[role="dialog"], [role="menu"]') !== null;
}

/** True where a letter is a shortcut: in the column or in a list, and not switched off. */
export function isLetter(event: KeyboardEvent): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey || isTaken(event) || !hasLetters()) return false;
  return event.target instanceof Element && event.target.closest('[data-letters]') !== null;
}
