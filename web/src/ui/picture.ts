const longestSide = 1600;

/** Draws a picture upright and no larger than it is kept, so that little travels over the shop's network. */
export async function smaller(file: File): Promise<Blob> {
  const picture = await createImageBitmap(file);
  const by = Math.min(1, longestSide / Math.max(picture.width, picture.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(picture.width * by);
  canvas.height = Math.round(picture.height * by);
  const pen = canvas.getContext("2d");
  if (!pen) throw new Error("no canvas");
  pen.fillStyle = "#fff"; // under what is transparent
  pen.fillRect(0, 0, canvas.width, canvas.height);
  pen.drawImage(picture, 0, 0, canvas.width, canvas.height);
  picture.close();
  return new Promise((done, failed) => {
    canvas.toBlob((b) => (b ? done(b) : failed(new Error("no picture"))), "image/jpeg", 0.85);
  });
}
