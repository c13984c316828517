/** What server and interface tell each other about the bench. Types only. */
import type { Device } from '@/core/medium/device';

/** A medium of the bench with what people should know about it. */
export interface BenchMedium {
  readonly device: Device;
  /** What tells it from others that look like it; empty where none does. */
  readonly distinctions: readonly string[];
  /** Why no layout can be made for it. */
  readonly refused: string | null;
}

export interface BenchView {
  readonly media: readonly BenchMedium[];
}
