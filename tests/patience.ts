/** How long a property over thousands may take, in milliseconds; run many times over (LOESS_AGAIN) as long as that takes. */
export const PATIENCE = process.env.LOESS_AGAIN ? 10_000_000 : 300_000;
