/** Who answers, when it is no file of the site: as expectations and reports say it. */
export const NO_FILE = "no file";
export const THE_APPLICATION = "the application";
