/** What went wrong, beside what it was about; nothing while nothing did. */
export function Trouble({ error }: { error: Error | null }) {
  return error ? (
    <p role="alert" className="m-0">
      <strong>{error.message}</strong>
    </p>
  ) : null;
}
