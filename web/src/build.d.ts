/** Tells one build from another: what another build has kept of the server's answers may have another shape. */
declare const __BUILD__: string
