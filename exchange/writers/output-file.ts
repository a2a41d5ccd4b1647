/** A file that goes out: its name, which may hold a folder, and its text. */
export interface OutputFile {
  name: string;
  text: string;
}
