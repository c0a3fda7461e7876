import { ActionIcon } from "@mantine/core";
import { IconStar, IconStarFilled } from "@tabler/icons-react";

/** Keeps a chain at the head of its list, in this browser. */
export function StarButton({ chain, isStarred, press }: { chain: string; isStarred: boolean; press: () => void }) {
  const Shape = isStarred ? IconStarFilled : IconStar;
  return (
    <ActionIcon
      className="star"
      size="sm"
      variant="subtle"
      aria-pressed={isStarred}
      aria-label={`Star ${chain}`}
      title={isStarred ? "Not at the head of the list any more" : "To the head of the list"}
      onClick={press}
    >
      <Shape size={15} stroke={1.6} aria-hidden />
    </ActionIcon>
  );
}
