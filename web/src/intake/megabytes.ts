/** A file's size as intake says it. */
export const megabytes = (bytes: number) =>
  `${(bytes / 1e6).toLocaleString(undefined, { maximumFractionDigits: 1 })} MB`;
