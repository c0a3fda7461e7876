import { useState, type ReactNode } from "react";

/** A part of the inspector that opens; closed, it says what holds in a sentence. */
export function Section({
  title,
  says,
  open = false,
  children,
}: {
  title: string;
  says?: string;
  open?: boolean;
  children: ReactNode;
}) {
  const [isOpen, setOpen] = useState(open);
  return (
    <section className="section" data-open={isOpen}>
      <h3>
        <button type="button" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          <span aria-hidden className="turn">
            {isOpen ? "▾" : "▸"}
          </span>{" "}
          {title}
        </button>
      </h3>
      {says !== undefined && <p className="says">{says}</p>}
      {isOpen && <div className="body">{children}</div>}
    </section>
  );
}
