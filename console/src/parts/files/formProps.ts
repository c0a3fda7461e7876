/** What a form of a file gets. */
export interface FormProps {
  path: string;
  text: string;
  change: (text: string) => void;
  /** The entry that is chosen. */
  entry: string | undefined;
  choose: (entry: string | undefined) => void;
}
