package bikes

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/record"
)

// FuzzPicture takes whatever comes as a picture: a small JPEG, or words that say why not. What its header claims
// never costs more than is allowed.
func FuzzPicture(f *testing.F) {
	for _, encode := range []func(*bytes.Buffer, image.Image) error{
		func(b *bytes.Buffer, m image.Image) error { return png.Encode(b, m) },
		func(b *bytes.Buffer, m image.Image) error { return jpeg.Encode(b, m, nil) },
	} {
		for _, m := range []image.Image{image.NewGray(image.Rect(0, 0, 9, 7)), image.NewNRGBA64(image.Rect(0, 0, 3, 3)), image.NewPaletted(image.Rect(0, 0, 2, 2), color.Palette{color.White})} {
			var out bytes.Buffer
			require.NoError(f, encode(&out, m))
			f.Add(out.Bytes())
		}
	}
	f.Add([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x02\xfa\xf0\x80\x00\x00\x00\x01\x08\x02\x00\x00\x00"))
	f.Fuzz(func(t *testing.T, data []byte) {
		small, err := Shrink(context.Background(), data, 64)
		if err != nil {
			var p *record.Problem
			require.ErrorAs(t, err, &p)
			return
		}
		config, format, err := image.DecodeConfig(bytes.NewReader(small))
		require.NoError(t, err)
		assert.Equal(t, "jpeg", format)
		assert.LessOrEqual(t, max(config.Width, config.Height), 64)
	})
}
