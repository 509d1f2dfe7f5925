/** What the browser has made or been sent goes into a file of that name. */
export function saveAs(data: Blob, name: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(data);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
