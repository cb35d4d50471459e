/** What the open design calls the pin of a part; undefined where none of its ports is on it. */
export interface Ported {
  readonly port?: string | undefined;
}

export const Port = ({ port }: Ported) =>
  port === undefined ? null : (
    <span className="max-w-full break-all text-center text-[0.62rem] text-quiet leading-none" title={`Port ${port}`}>
      {port}
    </span>
  );
