import type { ReactNode } from "react";
import { ErrorBox } from "./ErrorBox";

/** A page: its title, facts beside it, actions at the right, and what it shows below; errors stand on top of that. */
export function Page({
  title,
  facts,
  actions,
  error,
  className,
  children,
}: {
  title: string;
  facts?: ReactNode;
  actions?: ReactNode;
  error?: Error | null;
  className?: string;
  children?: ReactNode;
}) {
  return (
    <div className={className === undefined ? "page" : `page ${className}`}>
      <PageTitle title={title} />
      <div className="headline">
        <h1>{title}</h1>
        {facts}
        {actions && <div className="rest">{actions}</div>}
      </div>
      <ErrorBox error={error} />
      {children}
    </div>
  );
}

/** What the browser calls the page. */
export const PageTitle = ({ title }: { title: string }) => <title>{`${title} · Gate Chain`}</title>;

/** A page that can't be shown yet, or not at all. */
export function PageWithout({ title, error }: { title: string; error: Error | string | null }) {
  return (
    <div className="page" aria-busy={error === null}>
      <PageTitle title={title} />
      {error !== null && <h1>{title}</h1>}
      <ErrorBox error={error} />
    </div>
  );
}
