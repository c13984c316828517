/** A question that is answered with yes once so many milliseconds are over. */
export function after(milliseconds: number): () => boolean {
  const end = performance.now() + milliseconds;
  return () => performance.now() > end;
}
