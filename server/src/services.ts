import type { Changes } from './changes';
import type { Desk } from './desk/desk';
import type { UploadServices } from './intake/one';
import type { RunService } from './runs/service';

/** Services of the application. */
export interface AppServices extends UploadServices {
  readonly runs: RunService;
  readonly changes: Changes;
  readonly desk: Desk;
  /** Where deliveries are written to when they are asked for; undefined for nowhere. */
  readonly outFolder: string | undefined;
}
