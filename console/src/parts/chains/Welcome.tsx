import { Button } from "@mantine/core";
import { IconArrowBackUp, IconGitFork, IconPlayerPlay, type Icon } from "@tabler/icons-react";
import { Link } from "@tanstack/react-router";
import { useRemembered } from "../page/useRemembered";

const cards: { icon: Icon; title: string; text: string }[] = [
  {
    icon: IconGitFork,
    title: "Design",
    text: "A chain is steps joined by gates. A gate opens when a step succeeded, failed, or when an expression says so. What you design is saved by itself as a draft; a release is what runs follow.",
  },
  {
    icon: IconPlayerPlay,
    title: "Run",
    text: "By hand, or by a trigger: at a time, when a file comes, when another system calls. The drawing shows how far a run is, and each step says why it ran or did not.",
  },
  {
    icon: IconArrowBackUp,
    title: "Resume",
    text: "Everything that happens is on disk before it has an effect. When a step fails, put right what was wrong and resume: only that step, and what hangs on it, is done again.",
  },
];

/** What one comes for, in three cards; until somebody has seen them. */
export function Welcome() {
  const [seen, setSeen] = useRemembered<boolean>("welcome seen", false);
  if (seen) return null;
  return (
    <section className="welcome" aria-label="What this is">
      {cards.map(({ icon: Shape, title, text }) => (
        <div key={title} className="card">
          <h2>
            <Shape size={18} stroke={1.6} aria-hidden /> {title}
          </h2>
          <p>{text}</p>
        </div>
      ))}
      <div className="welcomefoot">
        <Link to="/help">Words used here</Link>
        <Button size="compact-sm" variant="default" onClick={() => setSeen(true)}>
          Got it
        </Button>
      </div>
    </section>
  );
}
