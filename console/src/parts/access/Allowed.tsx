import type { ReactNode } from "react";
import { roleFor, type Permission } from "../../core/access/may";
import { useMay } from "../../queries/access";

/**
 * What one may do; absent for who may not. The server decides all the same.
 * @param folder where; somewhere at all when it is left out
 * @param tell says which role could, in its place
 */
export function Allowed({
  permission,
  folder,
  tell = false,
  children,
}: {
  permission: Permission;
  folder?: string;
  tell?: boolean;
  children: ReactNode;
}) {
  const { whyNot } = useMay();
  const why = whyNot(permission, folder);
  if (why === null) return children;
  return tell ? (
    <span className="soft small" title={why}>
      for the role {roleFor[permission]}
    </span>
  ) : null;
}
