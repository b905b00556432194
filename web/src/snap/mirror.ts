// A photo that was taken in a mirror, turned the right way round.

/** As JPEG of the same size; what the file says of its exposure is lost, so it proves no brightness. Fails where the browser cannot open it. */
export async function turned(file: Blob): Promise<Blob> {
  const picture = await createImageBitmap(file);
  const canvas = document.createElement("canvas");
  canvas.width = picture.width;
  canvas.height = picture.height;
  const context = canvas.getContext("2d");
  if (!context) throw new Error("no canvas");
  context.scale(-1, 1);
  context.drawImage(picture, -picture.width, 0);
  picture.close();
  return new Promise((done, failed) => {
    canvas.toBlob(
      (blob) => {
        if (blob) done(blob);
        else failed(new Error("not written"));
      },
      "image/jpeg",
      0.95,
    );
  });
}
