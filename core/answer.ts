/** What comes of an order, in words for the person who gave it. */
export type Answer<Done extends object = object> =
  ({ readonly ok: true; readonly words: string } & Done) | { readonly ok: false; readonly message: string }
