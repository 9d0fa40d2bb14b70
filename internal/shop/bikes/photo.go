package bikes

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	_ "image/png" // pictures come as JPEG or PNG
	"io"

	"golang.org/x/image/draw"
	"golang.org/x/sync/semaphore"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// The bounds of a photo. Whatever comes is drawn anew within MaxKeptSide, which also leaves behind
// what cameras write into their files, such as where they were.
const (
	MaxPhotoBytes = 8 << 20
	maxSide       = 12_000      // pixels; more than any telephone takes: a small file can claim far more
	maxDecoded    = 256_000_000 // bytes of pixels being read at once, over all requests
	MaxKeptSide   = 1600
	photoQuality  = 82
)

// SetPhoto keeps a photo of a bike in place of any it had.
func (s *Bikes) SetPhoto(ctx context.Context, who record.Actor, tagText string, picture []byte) (Bike, error) {
	small, err := Shrink(ctx, picture, MaxKeptSide)
	if err != nil {
		return Bike{}, err
	}
	return s.changePhoto(ctx, who, tagText, record.FileOf(picture), func(tx store.Tx, bike store.Bike) (bool, error) {
		return true, tx.SetPhoto(ctx, bike.ID, small, s.desk.Now())
	})
}

// RemovePhoto takes a bike's photo away. It is no error when there is none.
func (s *Bikes) RemovePhoto(ctx context.Context, who record.Actor, tagText string) (Bike, error) {
	return s.changePhoto(ctx, who, tagText, nil, func(tx store.Tx, bike store.Bike) (bool, error) {
		return tx.RemovePhoto(ctx, bike.ID)
	})
}

func (s *Bikes) changePhoto(ctx context.Context, who record.Actor, tagText string, file any, change func(store.Tx, store.Bike) (bool, error)) (Bike, error) {
	var after Bike
	err := record.IdempotentInto(ctx, s.desk, who, "change-photo "+tagText, file, &after, func(ctx context.Context, tx store.Tx) error {
		row, err := record.BikeByTag(ctx, tx, tagText)
		if err != nil {
			return err
		}
		changed, err := change(tx, row)
		if err != nil {
			return err
		}
		if changed {
			e := store.Entry{BikeID: &row.ID, Kind: record.KindBikeChanged}
			if err := s.desk.Append(ctx, tx, who, &e, record.BikeBody{Changed: []string{"photo"}}, record.TagOf(row)); err != nil {
				return err
			}
		}
		if row, err = record.BikeByTag(ctx, tx, tagText); err != nil {
			return err
		}
		after, err = newBike(ctx, tx, row)
		return err
	})
	return after, err
}

// Photo returns a bike's photo as JPEG.
func (s *Bikes) Photo(ctx context.Context, tagText string) ([]byte, error) {
	tx := s.desk.Store.Read(ctx)
	row, err := record.BikeByTag(ctx, tx, tagText)
	if err != nil {
		return nil, err
	}
	photo, err := tx.Photo(ctx, row.ID)
	if record.IsNotFound(err) {
		return nil, record.NotFound("photo", "photo-not-found")
	}
	return photo, err
}

// pixels bounds what the pictures that are being read take in memory, over all requests. A picture that does
// not fit beside the others waits; one that is larger by itself is refused by its header.
var pixels = semaphore.NewWeighted(maxDecoded)

// Shrink reads a picture and writes it anew, its longer side no longer than longest; nothing that the file holds
// beside its pixels is kept. Reading waits for its share of memory and stops when ctx ends.
func Shrink(ctx context.Context, picture []byte, longest int) ([]byte, error) {
	small, err := ShrinkAll(ctx, picture, longest)
	if err != nil {
		return nil, err
	}
	return small[0], nil
}

// ShrinkAll is [Shrink] to several sizes, the largest first, by one reading.
func ShrinkAll(ctx context.Context, picture []byte, sides ...int) ([][]byte, error) {
	refused := func(code, message string) error {
		return &record.Problem{Kind: record.Invalid, Code: code, Message: message}
	}
	if len(picture) > MaxPhotoBytes {
		return nil, refused("photo-too-large", fmt.Sprintf("A photo may have %d MB at most.", MaxPhotoBytes>>20))
	}
	config, format, err := image.DecodeConfig(bytes.NewReader(picture))
	if err != nil || config.Width < 1 || config.Height < 1 {
		return nil, refused("not-a-picture", "This is not a picture that can be kept: take a JPEG or PNG.")
	}
	if config.Width > maxSide || config.Height > maxSide {
		return nil, refused("photo-too-large", fmt.Sprintf("This picture is %d × %d: at most %d either way can be kept.", config.Width, config.Height, maxSide))
	}
	weight := int64(config.Width) * int64(config.Height) * bytesOf(format, config.ColorModel, picture)
	if weight > maxDecoded {
		return nil, refused("photo-too-large", "This picture has too many pixels to keep.")
	}
	if err := pixels.Acquire(ctx, weight); err != nil {
		return nil, err
	}
	defer pixels.Release(weight)
	from, _, err := image.Decode(readUntil{ctx, bytes.NewReader(picture)})
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	if err != nil {
		return nil, refused("not-a-picture", "This picture is damaged: take it again.")
	}
	var small [][]byte
	for _, side := range sides {
		width, height := fit(from.Bounds().Dx(), from.Bounds().Dy(), side)
		to := image.NewRGBA(image.Rect(0, 0, width, height))
		draw.Draw(to, to.Bounds(), image.White, image.Point{}, draw.Src) // under what is transparent
		// Large ones are brought near their size coarsely first: fast, whatever way their pixels are kept.
		if from.Bounds().Dx() > 3*width && from.Bounds().Dy() > 3*height {
			near := image.NewRGBA(image.Rect(0, 0, 2*width, 2*height))
			draw.NearestNeighbor.Scale(near, near.Bounds(), from, from.Bounds(), draw.Src, nil)
			from = near
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
		}
		draw.CatmullRom.Scale(to, to.Bounds(), from, from.Bounds(), draw.Over, nil)
		var out bytes.Buffer
		if err := jpeg.Encode(&out, to, &jpeg.Options{Quality: photoQuality}); err != nil {
			return nil, fmt.Errorf("write photo: %w", err)
		}
		small, from = append(small, out.Bytes()), to
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
	}
	return small, nil
}

// bytesOf is what a pixel of a picture takes while it is read, at the most.
func bytesOf(format string, model color.Model, picture []byte) int64 {
	if format == "jpeg" {
		if progressive(picture) {
			return 16 // its coefficients are gathered before the first pixel
		}
		return 4
	}
	pixel := int64(4)
	switch model {
	case color.RGBA64Model, color.NRGBA64Model:
		pixel = 8
	case color.GrayModel:
		pixel = 1
	case color.Gray16Model:
		pixel = 2
	}
	if _, paletted := model.(color.Palette); paletted {
		pixel = 1
	}
	const interlaced = 28 // where a PNG says so
	if len(picture) > interlaced && picture[interlaced] != 0 {
		pixel *= 2 // its passes are pictures of their own
	}
	return pixel
}

// progressive reports whether a JPEG brings its pixels in several passes over all of it.
func progressive(picture []byte) bool {
	for at := 2; at+4 <= len(picture) && picture[at] == 0xff; {
		switch marker := picture[at+1]; {
		case marker == 0xff: // padding
			at++
			continue
		case marker == 0xc2:
			return true
		case marker == 0xc0 || marker == 0xc1 || marker == 0xda:
			return false
		}
		at += 2 + int(binary.BigEndian.Uint16(picture[at+2:]))
	}
	return true // not to be told: as the heaviest
}

// readUntil ends reading when ctx does.
type readUntil struct {
	ctx context.Context
	r   io.Reader
}

func (r readUntil) Read(p []byte) (int, error) {
	if err := r.ctx.Err(); err != nil {
		return 0, err
	}
	return r.r.Read(p)
}

// fit returns the size within longest that keeps the proportions; it never makes a picture larger.
func fit(width, height, longest int) (int, int) {
	most := max(width, height)
	if most <= longest {
		return width, height
	}
	return max(1, width*longest/most), max(1, height*longest/most)
}
