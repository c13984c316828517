/** Fills of the strata: dots, dashes and bricks as on a geological log, told apart without colour. */

export type Fill = 'table' | 'loader' | 'boot' | 'system' | 'data' | 'swap' | 'kept' | 'free' | 'gap';

/** The paint of a fill; `Patterns` must be on the page. */
export function paint(fill: Fill): string {
  return `url(#stratum-${fill})`;
}

/** Definitions of the fills, once a page. */
export function Patterns() {
  return (
    <svg width="0" height="0" aria-hidden="true" className="absolute">
      <defs>
        <pattern id="stratum-table" width="6" height="6" patternUnits="userSpaceOnUse">
          <rect width="6" height="6" fill="var(--s-table)" />
        </pattern>
        <pattern id="stratum-loader" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="7" height="7" fill="var(--s-loader-a)" />
          <rect width="3" height="7" fill="var(--s-loader-b)" />
        </pattern>
        <pattern id="stratum-boot" width="22" height="14" patternUnits="userSpaceOnUse">
          <rect width="22" height="14" fill="var(--s-boot-a)" />
          <path d="M0 .5H22M0 7.500H22M5.500 0V7M16.500 7V14" stroke="var(--s-boot-b)" />
        </pattern>
        <pattern id="stratum-system" width="16" height="8" patternUnits="userSpaceOnUse">
          <rect width="16" height="8" fill="var(--s-system-a)" />
          <path d="M0 2.500H8M8 6.500H16" stroke="var(--s-system-b)" strokeWidth="1.200" />
        </pattern>
        <pattern id="stratum-data" width="9" height="9" patternUnits="userSpaceOnUse">
          <rect width="9" height="9" fill="var(--s-data-a)" />
          <circle cx="2.200" cy="2.200" r="1" fill="var(--s-data-b)" />
          <circle cx="6.700" cy="6.700" r="1" fill="var(--s-data-b)" />
        </pattern>
        <pattern id="stratum-swap" width="12" height="8" patternUnits="userSpaceOnUse">
          <rect width="12" height="8" fill="var(--s-swap-a)" />
          <path d="M0 6q3-5 6 0t6 0" fill="none" stroke="var(--s-swap-b)" strokeWidth="1.200" />
        </pattern>
        <pattern id="stratum-kept" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
          <rect width="5" height="5" fill="var(--s-kept-a)" />
          <rect width="1.500" height="5" fill="var(--s-kept-b)" />
        </pattern>
        <pattern id="stratum-free" width="10" height="10" patternUnits="userSpaceOnUse">
          <rect width="10" height="10" fill="var(--s-free-a)" />
          <path d="M3 5H7M5 3V7" stroke="var(--s-free-b)" strokeWidth=".8" />
        </pattern>
        <pattern id="stratum-gap" width="8" height="8" patternUnits="userSpaceOnUse">
          <rect width="8" height="8" fill="var(--s-free-a)" />
        </pattern>
      </defs>
    </svg>
  );
}
