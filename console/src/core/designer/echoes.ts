/**
 * Tells what a field has sent itself from what comes from elsewhere. On a slow machine an edit comes back when
 * something newer has been typed and sent already; to show it would take back what was typed, and a press on a button
 * right then would make that the edit.
 */
export class Echoes {
  private sent: string[] = [];

  /** The field has made its text an edit. */
  send(text: string): void {
    this.sent.push(text.trim());
  }

  /** Whether a value that comes in is only an earlier one of the field's own, with a newer one still on its way. */
  isStale(value: string): boolean {
    const at = this.sent.lastIndexOf(value.trim());
    // What is not the field's own replaces whatever was on its way.
    this.sent = at < 0 ? [] : this.sent.slice(at + 1);
    return this.sent.length > 0;
  }
}
