/** A small lock at the name of what is kept; the word stands beside it for readers of the screen. */
export function Lock() {
  return (
    <svg
      width="9"
      height="11"
      viewBox="0 0 9 11"
      role="img"
      aria-label="kept"
      className="mr-1 inline-block align-[-1px]"
    >
      <path d="M2 5V3a2.500 2.500 0 0 1 5 0V5" fill="none" stroke="currentColor" strokeWidth="1.300" />
      <rect x=".500" y="5" width="8" height="5.500" rx="1" fill="currentColor" />
    </svg>
  );
}
