import { Modal } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import type { SessionInfo } from "../../core/api/types";
import { keys } from "../../queries/keys";
import { SignInForm } from "./SignInForm";

/**
 * The session has ended while somebody was at work. What they typed stays as it is below; once they have signed in
 * again it goes on.
 */
export default function SignInAgain({ was, close }: { was: SessionInfo; close: () => void }) {
  const queries = useQueryClient();
  return (
    <Modal
      opened
      onClose={() => undefined}
      withCloseButton={false}
      closeOnEscape={false}
      closeOnClickOutside={false}
      title="Your session has ended"
      size="sm"
    >
      <p className="small soft">
        Nothing that you typed is lost. Sign in again as {was.name}, and it goes on where it was.
      </p>
      <SignInForm
        name={was.name ?? undefined}
        provider={was.provider}
        back={window.location.pathname + window.location.search}
        done={(session) => {
          queries.setQueryData(keys.session, session);
          void queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "session" });
          close();
        }}
      />
      <p className="small">
        <a href="/sign-in">Sign in as somebody else</a>: what is not saved is lost then.
      </p>
    </Modal>
  );
}
