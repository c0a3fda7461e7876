import {
  IconAlarm,
  IconAlertTriangle,
  IconArrowsTransferUpDown,
  IconBoxMultiple,
  IconChecklist,
  IconCircleCheck,
  IconClock,
  IconCloudUpload,
  IconDatabase,
  IconFileSearch,
  IconFlag,
  IconGitFork,
  IconPlayerPause,
  IconPuzzle,
  IconRepeat,
  IconRotateClockwise,
  IconSend,
  IconSquare,
  IconStack2,
  IconTableImport,
  IconTerminal2,
  IconVariable,
  IconWorld,
  type Icon,
} from "@tabler/icons-react";
import { familyOf } from "../../core/kinds";
import { isBand, occasionOf } from "../../core/graph/bands";

const icons: Readonly<Record<string, Icon>> = {
  load: IconTableImport,
  check: IconChecklist,
  sql: IconDatabase,
  file: IconFileSearch,
  transfer: IconArrowsTransferUpDown,
  command: IconTerminal2,
  http: IconWorld,
  remote: IconCloudUpload,
  call: IconStack2,
  notify: IconSend,
  decide: IconGitFork,
  each: IconRepeat,
  repeat: IconRotateClockwise,
  group: IconBoxMultiple,
  wait: IconClock,
  assign: IconVariable,
  stop: IconSquare,
};

const occasionIcons: Readonly<Record<string, Icon>> = {
  success: IconCircleCheck,
  failure: IconAlertTriangle,
  end: IconFlag,
  pause: IconPlayerPause,
  late: IconAlarm,
};

/** The icon of a kind, or of the occasion of a handler (`@failure`). Words beside it say the same. */
export function KindIcon({ kind, size = 17 }: { kind: string; size?: number }) {
  const Shape = (isBand(kind) ? occasionIcons[occasionOf(kind)] : icons[kind]) ?? IconPuzzle;
  return <Shape size={size} stroke={1.6} aria-hidden />;
}

/** The icon on a tile in the tint of its family. */
export function KindTile({ kind, size = 17 }: { kind: string; size?: number }) {
  return (
    <span className="tile" data-family={familyOf(kind)}>
      <KindIcon kind={kind} size={size} />
    </span>
  );
}
