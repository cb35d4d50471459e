/** What the open design calls the pin of a part; undefined where none of its ports is on it. */
export interface Ported {
  readonly port?: string | undefined;
}

export const Port = ({ port }: Ported) =>
  port === undefined ? null : (
    <span className="code max-w-full truncate text-[0.62rem] text-quiet leading-tight" title={`Port ${port}`}>
      {port}
    </span>
  );
