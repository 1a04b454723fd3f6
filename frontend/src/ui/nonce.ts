/** The page's nonce: styles that scripts insert carry it, as the Content-Security-Policy asks. */
export const nonce: string = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? "";
