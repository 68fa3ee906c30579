/** The birds of the fieldbook, by the last part of their address. */
export const SPECIES = {
  curlew: { name: "Curlew", latin: "Numenius arquata", note: "Heard before it is seen." },
  redshank: {
    name: "Redshank",
    latin: "Tringa totanus",
    note: "The warden of the marsh: it sees you first.",
  },
  skylark: { name: "Skylark", latin: "Alauda arvensis", note: "Sings on the wing, from March on." },
};
