import { Link } from "@tanstack/react-router";
import { Page } from "../parts/page/Page";

export function NotFound() {
  return (
    <Page title="There is no such page">
      <p>
        Go to the <Link to="/chains">chains</Link>.
      </p>
    </Page>
  );
}
