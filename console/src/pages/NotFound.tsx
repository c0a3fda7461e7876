import { Link } from "@tanstack/react-router";

export function NotFound() {
  return (
    <div className="page">
      <h1>There is no such page</h1>
      <p>
        Go to the <Link to="/chains">chains</Link>.
      </p>
    </div>
  );
}
