/** Our own companies as documents name them. */
export type Ourselves = readonly { readonly name: string; readonly vatNumbers: readonly string[]; readonly ibans: readonly string[] }[];
