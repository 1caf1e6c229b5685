/** How a file differs between two safe copies. Fit for the browser. */
export const COPY_CHANGES = ['added', 'changed', 'gone'] as const
export type CopyChange = (typeof COPY_CHANGES)[number]
