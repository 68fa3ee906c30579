/** The statuses that a site answers with, in the words of RFC 9110 §15. */
const PHRASES: Readonly<Record<number, string>> = {
  200: "OK",
  204: "No Content",
  206: "Partial Content",
  301: "Moved Permanently",
  302: "Found",
  304: "Not Modified",
  400: "Bad Request",
  403: "Forbidden",
  404: "Not Found",
  405: "Method Not Allowed",
  410: "Gone",
  412: "Precondition Failed",
  416: "Range Not Satisfiable",
  500: "Internal Server Error",
  503: "Service Unavailable",
};

export const phraseOf = (status: number): string => PHRASES[status] ?? "";
