/** Labels of ext: bytes of UTF-8, as many as fit whole characters into sixteen. */
export const EXT_LABEL_BYTES = 16;

const encoder = new TextEncoder();

/** What is stored of a label, and what does not fit. */
export interface StoredExtLabel {
  readonly text: string;
  readonly bytes: Uint8Array;
  readonly cut: string;
}

/** A label as it is stored: no character is cut in half. */
export function storedExtLabel(label: string): StoredExtLabel {
  let text = '';
  let length = 0;
  for (const character of label) {
    length += encoder.encode(character).length;
    if (length > EXT_LABEL_BYTES) break;
    text += character;
  }
  return { text, bytes: encoder.encode(text), cut: label.slice(text.length) };
}
