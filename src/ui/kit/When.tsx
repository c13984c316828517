/** A time as people read it, in their own zone; as it is written where only the server knows it. */
export function When({ at }: { readonly at: string }) {
  const shown = new Date(at);
  const pad = (n: number) => String(n).padStart(2, '0');
  const text = `${shown.getFullYear()}-${pad(shown.getMonth() + 1)}-${pad(shown.getDate())} ${pad(shown.getHours())}:${pad(shown.getMinutes())}`;
  return (
    <time dateTime={at} suppressHydrationWarning>
      {text}
    </time>
  );
}
