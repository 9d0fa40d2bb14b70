package shop

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/jpeg"
	_ "image/png" // pictures come as JPEG or PNG

	"golang.org/x/image/draw"

	"earnestpony/internal/store"
)

// The bounds of a photo. Whatever comes is drawn anew within longestSide, which also leaves behind
// what cameras write into their files, such as where they were.
const (
	MaxPhotoBytes = 8 << 20
	mostPixels    = 50_000_000 // more than any telephone takes; a small file can claim far more
	longestSide   = 1600
	photoQuality  = 82
)

// SetPhoto keeps a photo of a bike in place of any it had.
func (s *Service) SetPhoto(ctx context.Context, who Actor, tagText string, picture []byte) (Bike, error) {
	small, err := shrink(picture, longestSide)
	if err != nil {
		return Bike{}, err
	}
	return s.changePhoto(ctx, who, tagText, func(tx store.Tx, bike store.Bike) (bool, error) {
		return true, tx.SetPhoto(ctx, bike.ID, small, s.now())
	})
}

// RemovePhoto takes a bike's photo away. It is no error when there is none.
func (s *Service) RemovePhoto(ctx context.Context, who Actor, tagText string) (Bike, error) {
	return s.changePhoto(ctx, who, tagText, func(tx store.Tx, bike store.Bike) (bool, error) {
		return tx.RemovePhoto(ctx, bike.ID)
	})
}

func (s *Service) changePhoto(ctx context.Context, who Actor, tagText string, change func(store.Tx, store.Bike) (bool, error)) (Bike, error) {
	var after Bike
	err := s.store.Write(ctx, func(tx store.Tx) error {
		row, err := bikeByTag(ctx, tx, tagText)
		if err != nil {
			return err
		}
		changed, err := change(tx, row)
		if err != nil {
			return err
		}
		if changed {
			e := store.Entry{BikeID: &row.ID, Kind: "bike-changed"}
			if err := s.append(ctx, tx, who, &e, bikeBody{Changed: []string{"photo"}}, Change{Topic: "bike", Tag: tagOf(row)}); err != nil {
				return err
			}
		}
		if row, err = bikeByTag(ctx, tx, tagText); err != nil {
			return err
		}
		after, err = newBike(ctx, tx, row)
		return err
	})
	return after, err
}

// Photo returns a bike's photo as JPEG.
func (s *Service) Photo(ctx context.Context, tagText string) ([]byte, error) {
	tx := s.store.Read()
	row, err := bikeByTag(ctx, tx, tagText)
	if err != nil {
		return nil, err
	}
	photo, err := tx.Photo(ctx, row.ID)
	if notFound(err) {
		return nil, missing("photo", "photo-not-found")
	}
	return photo, err
}

// shrink reads a picture and writes it anew, its longer side no longer than longest.
func shrink(picture []byte, longest int) ([]byte, error) {
	refused := func(code, message string) error {
		return &Problem{Kind: Invalid, Code: code, Message: message}
	}
	if len(picture) > MaxPhotoBytes {
		return nil, refused("photo-too-large", fmt.Sprintf("A photo may have %d MB at most.", MaxPhotoBytes>>20))
	}
	config, _, err := image.DecodeConfig(bytes.NewReader(picture))
	if err != nil {
		return nil, refused("not-a-picture", "This is not a picture that can be kept: take a JPEG or PNG.")
	}
	if config.Width*config.Height > mostPixels {
		return nil, refused("photo-too-large", "This picture has too many pixels to keep.")
	}
	from, _, err := image.Decode(bytes.NewReader(picture))
	if err != nil {
		return nil, refused("not-a-picture", "This picture is damaged: take it again.")
	}
	width, height := fit(config.Width, config.Height, longest)
	to := image.NewRGBA(image.Rect(0, 0, width, height))
	draw.Draw(to, to.Bounds(), image.White, image.Point{}, draw.Src) // under what is transparent
	draw.CatmullRom.Scale(to, to.Bounds(), from, from.Bounds(), draw.Over, nil)
	var small bytes.Buffer
	if err := jpeg.Encode(&small, to, &jpeg.Options{Quality: photoQuality}); err != nil {
		return nil, fmt.Errorf("write photo: %w", err)
	}
	return small.Bytes(), nil
}

// fit returns the size within longest that keeps the proportions; it never makes a picture larger.
func fit(width, height, longest int) (int, int) {
	most := max(width, height)
	if most <= longest {
		return width, height
	}
	return max(1, width*longest/most), max(1, height*longest/most)
}
