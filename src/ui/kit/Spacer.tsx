/** Stands for rows of a table that are far from what is seen. */
export function Spacer({ height }: { readonly height: number }) {
  return height > 0 ? <tr aria-hidden="true" style={{ height }} /> : null;
}
