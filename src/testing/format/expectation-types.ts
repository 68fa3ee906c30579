// Written by tools/build.mjs, from the schemas. Do not change it here.

/** A value of JSON. */
export type Json = string | number | boolean | null | Json[] | { [key: string]: Json };

/** What an answer must be. */
export interface Expectation {
  /** A status, a class such as 2xx, or several. */
  status?: number | string | (number | string)[] | undefined;
  /** Where Location points: a path of the site, or a whole address. */
  redirect?: string | undefined;
  /** Where the redirects lead in the end: an address that answers with 2xx. */
  leadsTo?:
    | string
    | {
        /** The address at the end. */
        address: string;
        /** The most redirects on the way; default 5. */
        steps?: number | undefined;
      }
    | undefined;
  /** The file that answers; only known in process. */
  answeredBy?: string | undefined;
  /** Media type without parameters, such as text/html. */
  mediaType?: string | undefined;
  /** The charset that Content-Type names, such as utf-8. */
  charset?: string | undefined;
  /** Content coding: br, gzip, none. */
  coding?: string | string[] | undefined;
  /** How long copies are kept, in words such as: revalidated each time. */
  caching?: string | string[] | undefined;
  /** Header fields by name. */
  headers?:
    | Record<
        string,
        | string
        | {
            /** True: the field must be present, with any value. False: it must be absent. */
            present?: boolean | undefined;
            /** A pattern that matches somewhere in its value. */
            matches?:
              | string
              | {
                  /** A regular expression of JavaScript. */
                  pattern: string;
                  /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
                  flags: string;
                }
              | undefined;
            /** A pattern that matches nowhere in its value. */
            matchesNot?:
              | string
              | {
                  /** A regular expression of JavaScript. */
                  pattern: string;
                  /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
                  flags: string;
                }
              | undefined;
            /** A member, or several, that the comma-separated list must have. */
            lists?: string | string[] | undefined;
            /** A member, or several, that the list must not have. */
            listsNot?: string | string[] | undefined;
            /** The smallest value, as a number. */
            atLeast?: number | undefined;
            /** The largest value, as a number. */
            atMost?: number | undefined;
            /** The field must be sent in one line. */
            once?: true | undefined;
          }
      >
    | undefined;
  /** Cookies that are set, by name; none for no cookie at all. */
  cookies?:
    | "none"
    | Record<
        string,
        {
          /** Whether the cookie is set. */
          present?: boolean | undefined;
          /** Its value. */
          value?: string | undefined;
          /** Whether scripts cannot read it. */
          httpOnly?: boolean | undefined;
          /** Whether it is sent over HTTPS only. */
          secure?: boolean | undefined;
          /** When other sites' pages send it. */
          sameSite?: "Strict" | "Lax" | "None" | undefined;
          /** The path below which it is sent. */
          path?: string | undefined;
        }
      >
    | undefined;
  /** The version of HTTP, in quotes; only known over the network. */
  httpVersion?: "1.0" | "1.1" | undefined;
  /** How soon the answer begins; only known over the network. */
  firstByte?:
    | {
        /** Such as 200ms. */
        atMost: string | number;
      }
    | undefined;
  /** The content, codings undone. */
  body?:
    | {
        /** The body is this file, byte by byte; from this file's folder. */
        file?: string | undefined;
        /** The whole text of the body. */
        equals?: string | undefined;
        /** A text, or several, that the body must contain. */
        contains?: string | string[] | undefined;
        /** A text, or several, that the body must not contain. */
        lacks?: string | string[] | undefined;
        /** A pattern that matches somewhere in the body. */
        matches?:
          | string
          | {
              /** A regular expression of JavaScript. */
              pattern: string;
              /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
              flags: string;
            }
          | undefined;
        /** A pattern that matches nowhere in the body. */
        matchesNot?:
          | string
          | {
              /** A regular expression of JavaScript. */
              pattern: string;
              /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
              flags: string;
            }
          | undefined;
        /** How often a text is in the body: the text, and a number or bounds. */
        count?:
          | Record<
              string,
              | number
              | {
                  /** The smallest the count. */
                  atLeast?: number | undefined;
                  /** The largest the count. */
                  atMost?: number | undefined;
                }
            >
          | undefined;
        /** Bytes, content codings undone. */
        length?:
          | number
          | {
              /** The smallest the length. */
              atLeast?: number | undefined;
              /** The largest the length. */
              atMost?: number | undefined;
            }
          | undefined;
        /** The digest of the body, such as sha-256=e3b0c442…, codings undone. */
        digest?: string | undefined;
        /** A part of the JSON value: members it must have, lists entry by entry. */
        json?: Json | undefined;
        /** What is at places in the JSON value, each a pointer (RFC 6901) such as /birds/0/name. */
        jsonAt?:
          | Record<
              string,
              {
                /** Whether there must be something at this place. */
                present?: boolean | undefined;
                /** The value; for a group of keys, the keys it must have. */
                equals?: Json | undefined;
                /** A list must have an entry like this; a text must contain this. */
                contains?: Json | undefined;
                /** A pattern that matches somewhere in the text. */
                matches?:
                  | string
                  | {
                      /** A regular expression of JavaScript. */
                      pattern: string;
                      /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
                      flags: string;
                    }
                  | undefined;
                /** A pattern that matches nowhere in the text. */
                matchesNot?:
                  | string
                  | {
                      /** A regular expression of JavaScript. */
                      pattern: string;
                      /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
                      flags: string;
                    }
                  | undefined;
                /** The JSON type of the value. */
                type?: "string" | "number" | "integer" | "boolean" | "object" | "array" | "null" | undefined;
                /** The smallest number. */
                atLeast?: number | undefined;
                /** The largest number. */
                atMost?: number | undefined;
                /** How many entries a list has, or keys a group. */
                count?:
                  | number
                  | {
                      /** The smallest the count. */
                      atLeast?: number | undefined;
                      /** The largest the count. */
                      atMost?: number | undefined;
                    }
                  | undefined;
              }
            >
          | undefined;
        /** True: there is no body. False: there is one. */
        empty?: boolean | undefined;
        /** An address of the site with the same content. */
        sameAs?: string | undefined;
        /** The size of a picture: PNG, GIF, JPEG or WebP. */
        picture?:
          | {
              /** Pixels. */
              width?:
                | number
                | {
                    /** The smallest the size. */
                    atLeast?: number | undefined;
                    /** The largest the size. */
                    atMost?: number | undefined;
                  }
                | undefined;
              /** Pixels. */
              height?:
                | number
                | {
                    /** The smallest the size. */
                    atLeast?: number | undefined;
                    /** The largest the size. */
                    atMost?: number | undefined;
                  }
                | undefined;
            }
          | undefined;
      }
    | undefined;
  /** The parts of a multipart/byteranges body, in their order. */
  parts?:
    | {
        /** Header fields of the part. */
        headers?:
          | Record<
              string,
              | string
              | {
                  /** True: the field must be present, with any value. False: it must be absent. */
                  present?: boolean | undefined;
                  /** A pattern that matches somewhere in its value. */
                  matches?:
                    | string
                    | {
                        /** A regular expression of JavaScript. */
                        pattern: string;
                        /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
                        flags: string;
                      }
                    | undefined;
                  /** A pattern that matches nowhere in its value. */
                  matchesNot?:
                    | string
                    | {
                        /** A regular expression of JavaScript. */
                        pattern: string;
                        /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
                        flags: string;
                      }
                    | undefined;
                  /** A member, or several, that the comma-separated list must have. */
                  lists?: string | string[] | undefined;
                  /** A member, or several, that the list must not have. */
                  listsNot?: string | string[] | undefined;
                  /** The smallest value, as a number. */
                  atLeast?: number | undefined;
                  /** The largest value, as a number. */
                  atMost?: number | undefined;
                  /** The field must be sent in one line. */
                  once?: true | undefined;
                }
            >
          | undefined;
        /** Bytes of the part. */
        length?:
          | number
          | {
              /** The smallest the length. */
              atLeast?: number | undefined;
              /** The largest the length. */
              atMost?: number | undefined;
            }
          | undefined;
        /** A text that the part must contain. */
        contains?: string | undefined;
      }[]
    | undefined;
  /** Expectations of the group that this case does not have: caching, headers.Vary, body.contains. */
  except?: string | string[] | undefined;
}

/** An expectations file, version 1. */
export interface ExpectationsFile {
  /** The address of this file's schema, for editors. */
  $schema?: string | undefined;
  /** The version of this format: 1. */
  version: 1;
  /** The configuration file to run against in process, from this file's folder. */
  config?: string | undefined;
  /** The address to ask if there is no configuration. */
  against?: string | undefined;
  /** Texts to use in the file, as a dollar sign with the name in braces; --set name=value replaces one. */
  variables?: Record<string, string> | undefined;
  /** Packs to run as well. */
  packs?:
    | (
        | "framing"
        | "missing"
        | "links"
        | "moved"
        | "methods"
        | "types"
        | "conditional"
        | "ranges"
        | "codings"
        | "variants"
        | "head"
        | "caching"
        | "app-shell"
        | "path-safety"
        | "exposure"
        | "content"
        | "listings"
        | "protected"
        | "delivery"
        | {
            /** The name of the pack. */
            pack:
              | "framing"
              | "missing"
              | "links"
              | "moved"
              | "methods"
              | "types"
              | "conditional"
              | "ranges"
              | "codings"
              | "variants"
              | "head"
              | "caching"
              | "app-shell"
              | "path-safety"
              | "exposure"
              | "content"
              | "listings"
              | "protected"
              | "delivery";
            /** More addresses to look at. */
            paths?: string[] | undefined;
          }
      )[]
    | undefined;
  /** Cases that belong to no group. */
  cases?:
    | {
        /** Name of the case; by default its request. */
        name?: string | undefined;
        /** The request: GET /guide/, or a group of keys. */
        request?:
          | string
          | string[]
          | {
              /** Default GET. */
              method?: string | undefined;
              /** Header fields to send, by name; a list sends a line for each value. */
              headers?: Record<string, string | string[]> | undefined;
              /** The content to send, as UTF-8. */
              body?: string | undefined;
              /** A path, or several: one case for each. */
              path?: string | string[] | undefined;
            }
          | undefined;
        /** Patterns over the addresses of the files that the site serves, or that its links lead to: one case for each. */
        each?: string | string[] | undefined;
        /** Patterns of files that each leaves out. */
        except?: string | string[] | undefined;
        /** What the answer must be. */
        expect?: Expectation | undefined;
        /** Values of the answer, for the requests of next. */
        remember?:
          | Record<
              string,
              {
                /** The header field to search; by default the body. */
                field?: string | undefined;
                /** A pattern: the value is its first group, or the whole match. */
                matches?:
                  | string
                  | {
                      /** A regular expression of JavaScript. */
                      pattern: string;
                      /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
                      flags: string;
                    }
                  | undefined;
                /** A place in the JSON body (RFC 6901), such as /birds/0/id. */
                pointer?: string | undefined;
              }
            >
          | undefined;
        /** Further requests, one after the other. */
        next?:
          | {
              /** Name of the case; by default its request. */
              name?: string | undefined;
              /** The next request; write a remembered value as a dollar sign with its name in braces. */
              request:
                | string
                | {
                    /** Default GET. */
                    method?: string | undefined;
                    /** Header fields to send, by name; a list sends a line for each value. */
                    headers?: Record<string, string | string[]> | undefined;
                    /** The content to send, as UTF-8. */
                    body?: string | undefined;
                    /** A path. */
                    path?: string | undefined;
                  };
              /** What its answer must be. */
              expect?: Expectation | undefined;
              /** Values of its answer for later steps. */
              remember?:
                | Record<
                    string,
                    {
                      /** The header field to search; by default the body. */
                      field?: string | undefined;
                      /** A pattern: the value is its first group, or the whole match. */
                      matches?:
                        | string
                        | {
                            /** A regular expression of JavaScript. */
                            pattern: string;
                            /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
                            flags: string;
                          }
                        | undefined;
                      /** A place in the JSON body (RFC 6901), such as /birds/0/id. */
                      pointer?: string | undefined;
                    }
                  >
                | undefined;
            }[]
          | undefined;
        /** How often it is asked; every answer must pass. */
        times?: number | undefined;
        /** How many of these requests are sent at the same time. */
        atOnce?: number | undefined;
        /** Where the case is asked; default both. */
        only?: "in process" | "over the network" | undefined;
        /** How often a failed case is asked again, each time after a second. */
        retries?: number | undefined;
        /** How long to wait for an answer, such as 10s. */
        timeout?: string | number | undefined;
        /** Further requests for the same resource. */
        alsoAsk?:
          | (
              | "revisit"
              | "head"
              | "range"
              | "coding"
              | {
                  /** One range, such as bytes=0-99. */
                  range: string;
                }
              | {
                  /** A content coding, or several. */
                  coding: "br" | "gzip" | "deflate" | "zstd" | ("br" | "gzip" | "deflate" | "zstd")[];
                }
            )[]
          | undefined;
      }[]
    | undefined;
  /** Cases that share a prefix, a request or expectations. */
  groups?:
    | {
        /** Name of the group. */
        name: string;
        /** Prefix of every path in the group. */
        under?: string | undefined;
        /** What every request of the group has, unless the case sets it. */
        request?:
          | {
              /** Default GET. */
              method?: string | undefined;
              /** Header fields to send, by name; a list sends a line for each value. */
              headers?: Record<string, string | string[]> | undefined;
              /** The content to send, as UTF-8. */
              body?: string | undefined;
            }
          | undefined;
        /** What every case of the group expects, in addition to its own. */
        expect?: Expectation | undefined;
        /** Where the case is asked; default both. */
        only?: "in process" | "over the network" | undefined;
        /** How often a failed case is asked again, each time after a second. */
        retries?: number | undefined;
        /** How long to wait for an answer, such as 10s. */
        timeout?: string | number | undefined;
        /** Further requests for the same resource. */
        alsoAsk?:
          | (
              | "revisit"
              | "head"
              | "range"
              | "coding"
              | {
                  /** One range, such as bytes=0-99. */
                  range: string;
                }
              | {
                  /** A content coding, or several. */
                  coding: "br" | "gzip" | "deflate" | "zstd" | ("br" | "gzip" | "deflate" | "zstd")[];
                }
            )[]
          | undefined;
        /** The cases of the group. */
        cases: {
          /** Name of the case; by default its request. */
          name?: string | undefined;
          /** The request: GET /guide/, or a group of keys. */
          request?:
            | string
            | string[]
            | {
                /** Default GET. */
                method?: string | undefined;
                /** Header fields to send, by name; a list sends a line for each value. */
                headers?: Record<string, string | string[]> | undefined;
                /** The content to send, as UTF-8. */
                body?: string | undefined;
                /** A path, or several: one case for each. */
                path?: string | string[] | undefined;
              }
            | undefined;
          /** Patterns over the addresses of the files that the site serves, or that its links lead to: one case for each. */
          each?: string | string[] | undefined;
          /** Patterns of files that each leaves out. */
          except?: string | string[] | undefined;
          /** What the answer must be. */
          expect?: Expectation | undefined;
          /** Values of the answer, for the requests of next. */
          remember?:
            | Record<
                string,
                {
                  /** The header field to search; by default the body. */
                  field?: string | undefined;
                  /** A pattern: the value is its first group, or the whole match. */
                  matches?:
                    | string
                    | {
                        /** A regular expression of JavaScript. */
                        pattern: string;
                        /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
                        flags: string;
                      }
                    | undefined;
                  /** A place in the JSON body (RFC 6901), such as /birds/0/id. */
                  pointer?: string | undefined;
                }
              >
            | undefined;
          /** Further requests, one after the other. */
          next?:
            | {
                /** Name of the case; by default its request. */
                name?: string | undefined;
                /** The next request; write a remembered value as a dollar sign with its name in braces. */
                request:
                  | string
                  | {
                      /** Default GET. */
                      method?: string | undefined;
                      /** Header fields to send, by name; a list sends a line for each value. */
                      headers?: Record<string, string | string[]> | undefined;
                      /** The content to send, as UTF-8. */
                      body?: string | undefined;
                      /** A path. */
                      path?: string | undefined;
                    };
                /** What its answer must be. */
                expect?: Expectation | undefined;
                /** Values of its answer for later steps. */
                remember?:
                  | Record<
                      string,
                      {
                        /** The header field to search; by default the body. */
                        field?: string | undefined;
                        /** A pattern: the value is its first group, or the whole match. */
                        matches?:
                          | string
                          | {
                              /** A regular expression of JavaScript. */
                              pattern: string;
                              /** i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks. */
                              flags: string;
                            }
                          | undefined;
                        /** A place in the JSON body (RFC 6901), such as /birds/0/id. */
                        pointer?: string | undefined;
                      }
                    >
                  | undefined;
              }[]
            | undefined;
          /** How often it is asked; every answer must pass. */
          times?: number | undefined;
          /** How many of these requests are sent at the same time. */
          atOnce?: number | undefined;
          /** Where the case is asked; default both. */
          only?: "in process" | "over the network" | undefined;
          /** How often a failed case is asked again, each time after a second. */
          retries?: number | undefined;
          /** How long to wait for an answer, such as 10s. */
          timeout?: string | number | undefined;
          /** Further requests for the same resource. */
          alsoAsk?:
            | (
                | "revisit"
                | "head"
                | "range"
                | "coding"
                | {
                    /** One range, such as bytes=0-99. */
                    range: string;
                  }
                | {
                    /** A content coding, or several. */
                    coding: "br" | "gzip" | "deflate" | "zstd" | ("br" | "gzip" | "deflate" | "zstd")[];
                  }
              )[]
            | undefined;
        }[];
      }[]
    | undefined;
}
