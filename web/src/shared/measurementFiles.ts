/** Files that measurements come in: CGATS text, CxF, and the tables of spreadsheets. */
export const MEASUREMENT_FILES = ".txt,.cgats,.it8,.cxf,.xml,.csv,.tsv";
