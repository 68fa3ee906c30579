// Written by npm run docs, from the schemas. Do not change it here.

/** A value of JSON. */
export type Json = string | number | boolean | null | Json[] | { [key: string]: Json };

/** What an answer must be. */
export interface Expectation {
  /** A status, a class such as 2xx, or several. */
  status?: number | string | (number | string)[] | undefined;
  /** Where Location leads: a path of the site, or a whole address. */
  redirect?: string | undefined;
  /** Where redirects lead in the end, each followed: an address that answers with 2xx. */
  leadsTo?:
    | string
    | {
        /** The address at the end. */
        address: string;
        /** The most redirects on the way; default 5. */
        steps?: number | undefined;
      }
    | undefined;
  /** The file that answers; known in process only. */
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
            /** True: the field is there, with any value. False: it is not. */
            present?: boolean | undefined;
            /** A pattern that its value matches somewhere. */
            matches?:
              | string
              | {
                  /** A regular expression of JavaScript. */
                  pattern: string;
                  /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
                  flags: string;
                }
              | undefined;
            /** A pattern that its value matches nowhere. */
            matchesNot?:
              | string
              | {
                  /** A regular expression of JavaScript. */
                  pattern: string;
                  /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
                  flags: string;
                }
              | undefined;
            /** A member, or several, that a comma-separated list has. */
            lists?: string | string[] | undefined;
            /** A member, or several, that the list has not. */
            listsNot?: string | string[] | undefined;
            /** The least that its value may be, where it is a number. */
            atLeast?: number | undefined;
            /** The most that its value may be, where it is a number. */
            atMost?: number | undefined;
            /** The field comes in one line. */
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
          /** Whether it is kept from scripts. */
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
  /** The version of HTTP, in quotes; known over the network only. */
  httpVersion?: "1.0" | "1.1" | undefined;
  /** How soon the answer begins; known over the network only. */
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
        /** A text, or several, that the body has in it. */
        contains?: string | string[] | undefined;
        /** A text, or several, that the body has not in it. */
        lacks?: string | string[] | undefined;
        /** A pattern that the body matches somewhere. */
        matches?:
          | string
          | {
              /** A regular expression of JavaScript. */
              pattern: string;
              /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
              flags: string;
            }
          | undefined;
        /** A pattern that the body matches nowhere. */
        matchesNot?:
          | string
          | {
              /** A regular expression of JavaScript. */
              pattern: string;
              /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
              flags: string;
            }
          | undefined;
        /** How often a text is in the body: the text, and a number or bounds. */
        count?:
          | Record<
              string,
              | number
              | {
                  /** The least that the count may be. */
                  atLeast?: number | undefined;
                  /** The most that the count may be. */
                  atMost?: number | undefined;
                }
            >
          | undefined;
        /** Bytes, content codings undone. */
        length?:
          | number
          | {
              /** The least that the length may be. */
              atLeast?: number | undefined;
              /** The most that the length may be. */
              atMost?: number | undefined;
            }
          | undefined;
        /** The digest of the body, such as sha-256=e3b0c442…, codings undone. */
        digest?: string | undefined;
        /** A part of the JSON value: members it must have, lists entry by entry. */
        json?: Json | undefined;
        /** What stands at places in the JSON value, each a pointer (RFC 6901) such as /birds/0/name. */
        jsonAt?:
          | Record<
              string,
              {
                /** Whether there is something at this place. */
                present?: boolean | undefined;
                /** The value: of a group of keys, those that it must have. */
                equals?: Json | undefined;
                /** A list has an entry like this; a text has this in it. */
                contains?: Json | undefined;
                /** A pattern that the text matches somewhere. */
                matches?:
                  | string
                  | {
                      /** A regular expression of JavaScript. */
                      pattern: string;
                      /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
                      flags: string;
                    }
                  | undefined;
                /** A pattern that the text matches nowhere. */
                matchesNot?:
                  | string
                  | {
                      /** A regular expression of JavaScript. */
                      pattern: string;
                      /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
                      flags: string;
                    }
                  | undefined;
                /** The type of the value, in the words of JSON. */
                type?: "string" | "number" | "integer" | "boolean" | "object" | "array" | "null" | undefined;
                /** The least that the number may be. */
                atLeast?: number | undefined;
                /** The most that the number may be. */
                atMost?: number | undefined;
                /** How many entries a list has, or keys a group. */
                count?:
                  | number
                  | {
                      /** The least that the count may be. */
                      atLeast?: number | undefined;
                      /** The most that the count may be. */
                      atMost?: number | undefined;
                    }
                  | undefined;
              }
            >
          | undefined;
        /** True: there is no body. False: there is one. */
        empty?: boolean | undefined;
        /** The address of the site that has the same content. */
        sameAs?: string | undefined;
        /** The size of a picture: PNG, GIF, JPEG or WebP. */
        picture?:
          | {
              /** Pixels. */
              width?:
                | number
                | {
                    /** The least that the size may be. */
                    atLeast?: number | undefined;
                    /** The most that the size may be. */
                    atMost?: number | undefined;
                  }
                | undefined;
              /** Pixels. */
              height?:
                | number
                | {
                    /** The least that the size may be. */
                    atLeast?: number | undefined;
                    /** The most that the size may be. */
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
                  /** True: the field is there, with any value. False: it is not. */
                  present?: boolean | undefined;
                  /** A pattern that its value matches somewhere. */
                  matches?:
                    | string
                    | {
                        /** A regular expression of JavaScript. */
                        pattern: string;
                        /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
                        flags: string;
                      }
                    | undefined;
                  /** A pattern that its value matches nowhere. */
                  matchesNot?:
                    | string
                    | {
                        /** A regular expression of JavaScript. */
                        pattern: string;
                        /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
                        flags: string;
                      }
                    | undefined;
                  /** A member, or several, that a comma-separated list has. */
                  lists?: string | string[] | undefined;
                  /** A member, or several, that the list has not. */
                  listsNot?: string | string[] | undefined;
                  /** The least that its value may be, where it is a number. */
                  atLeast?: number | undefined;
                  /** The most that its value may be, where it is a number. */
                  atMost?: number | undefined;
                  /** The field comes in one line. */
                  once?: true | undefined;
                }
            >
          | undefined;
        /** Bytes of the part. */
        length?:
          | number
          | {
              /** The least that the length may be. */
              atLeast?: number | undefined;
              /** The most that the length may be. */
              atMost?: number | undefined;
            }
          | undefined;
        /** A text that the part has in it. */
        contains?: string | undefined;
      }[]
    | undefined;
  /** What the group expects and this case does not: caching, headers.Vary, body.contains. */
  except?: string | string[] | undefined;
}

/** An expectations file, version 1. */
export interface ExpectationsFile {
  /** Where an editor finds the schema of this file. */
  $schema?: string | undefined;
  /** The version of this format: 1. */
  version: 1;
  /** The configuration file to run against in process, from this file's folder. */
  config?: string | undefined;
  /** The address to ask where no configuration is given. */
  against?: string | undefined;
  /** Texts to use elsewhere, as a dollar sign with the name in braces; --set name=value replaces one. */
  variables?: Record<string, string> | undefined;
  /** Ready-made expectations to run besides. */
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
            /** Addresses to look at, besides those that are found. */
            paths?: string[] | undefined;
          }
      )[]
    | undefined;
  /** Cases that belong to no group. */
  cases?:
    | {
        /** What the case is about; its request when not given. */
        name?: string | undefined;
        /** What is asked: GET /guide/, or a group of keys. */
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
        /** What must hold of the answer. */
        expect?: Expectation | undefined;
        /** Values of the answer, for the questions of next. */
        capture?:
          | Record<
              string,
              {
                /** The header field that it is in; the body when not given. */
                field?: string | undefined;
                /** A pattern: its first group is the value, or all that it matches. */
                matches?:
                  | string
                  | {
                      /** A regular expression of JavaScript. */
                      pattern: string;
                      /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
                      flags: string;
                    }
                  | undefined;
                /** A place in the JSON body (RFC 6901), such as /birds/0/id. */
                pointer?: string | undefined;
              }
            >
          | undefined;
        /** Further questions, one after the other. */
        next?:
          | {
              /** What the case is about; its request when not given. */
              name?: string | undefined;
              /** What is asked next; a dollar sign with a name in braces stands for a captured value. */
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
              /** What must hold of its answer. */
              expect?: Expectation | undefined;
              /** Values of its answer for the steps after it. */
              capture?:
                | Record<
                    string,
                    {
                      /** The header field that it is in; the body when not given. */
                      field?: string | undefined;
                      /** A pattern: its first group is the value, or all that it matches. */
                      matches?:
                        | string
                        | {
                            /** A regular expression of JavaScript. */
                            pattern: string;
                            /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
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
        /** How often it is asked; each time must be right. */
        times?: number | undefined;
        /** How many of those are asked at the same time. */
        atOnce?: number | undefined;
        /** Where the case is asked; default both. */
        only?: "in process" | "over the network" | undefined;
        /** How often a case that fails is asked again, a second later each time. */
        retries?: number | undefined;
        /** How long to wait for an answer, such as 10s. */
        timeout?: string | number | undefined;
        /** Further questions about the same resource. */
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
        /** What the group is about. */
        name: string;
        /** Prefix of every path in the group. */
        under?: string | undefined;
        /** What every request of the group has, where the case does not say otherwise. */
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
        /** What every case of the group expects, besides its own. */
        expect?: Expectation | undefined;
        /** Where the case is asked; default both. */
        only?: "in process" | "over the network" | undefined;
        /** How often a case that fails is asked again, a second later each time. */
        retries?: number | undefined;
        /** How long to wait for an answer, such as 10s. */
        timeout?: string | number | undefined;
        /** Further questions about the same resource. */
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
          /** What the case is about; its request when not given. */
          name?: string | undefined;
          /** What is asked: GET /guide/, or a group of keys. */
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
          /** What must hold of the answer. */
          expect?: Expectation | undefined;
          /** Values of the answer, for the questions of next. */
          capture?:
            | Record<
                string,
                {
                  /** The header field that it is in; the body when not given. */
                  field?: string | undefined;
                  /** A pattern: its first group is the value, or all that it matches. */
                  matches?:
                    | string
                    | {
                        /** A regular expression of JavaScript. */
                        pattern: string;
                        /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
                        flags: string;
                      }
                    | undefined;
                  /** A place in the JSON body (RFC 6901), such as /birds/0/id. */
                  pointer?: string | undefined;
                }
              >
            | undefined;
          /** Further questions, one after the other. */
          next?:
            | {
                /** What the case is about; its request when not given. */
                name?: string | undefined;
                /** What is asked next; a dollar sign with a name in braces stands for a captured value. */
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
                /** What must hold of its answer. */
                expect?: Expectation | undefined;
                /** Values of its answer for the steps after it. */
                capture?:
                  | Record<
                      string,
                      {
                        /** The header field that it is in; the body when not given. */
                        field?: string | undefined;
                        /** A pattern: its first group is the value, or all that it matches. */
                        matches?:
                          | string
                          | {
                              /** A regular expression of JavaScript. */
                              pattern: string;
                              /** i: case is ignored; m: ^ and $ mean lines; s: . means line breaks, too. */
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
          /** How often it is asked; each time must be right. */
          times?: number | undefined;
          /** How many of those are asked at the same time. */
          atOnce?: number | undefined;
          /** Where the case is asked; default both. */
          only?: "in process" | "over the network" | undefined;
          /** How often a case that fails is asked again, a second later each time. */
          retries?: number | undefined;
          /** How long to wait for an answer, such as 10s. */
          timeout?: string | number | undefined;
          /** Further questions about the same resource. */
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
