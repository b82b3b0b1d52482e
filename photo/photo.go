// Package photo makes a photo that comes from outside safe and small: decoded within bounds,
// turned upright, scaled, and written anew, so that nothing that came with the file is kept.
package photo

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"
	_ "image/png" // a format that is read
	"io"
	"slices"

	"github.com/rwcarlsen/goexif/exif"
	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp" // a format that is read

	"glenmist/core/invalid"
)

// Bounds of a photo.
const (
	MaxBytes  = 20 << 20   // of the file
	MaxPixels = 60_000_000 // before it is scaled: what cameras take, and no bomb
	MaxSide   = 12_000     // pixels, of either side
	// Side is the longest side that is kept, ThumbSide that of a small one.
	Side      = 1600
	ThumbSide = 240
	quality   = 85
)

// Photo is a photo as it is kept: JPEG without anything but its pixels.
type Photo struct {
	JPEG          []byte
	Width, Height int
}

// Clean reads a JPEG, PNG or WebP and makes it upright, at most [Side] pixels long, and free of
// all that is not its pixels. Errors are [invalid.Error].
func Clean(r io.Reader) (Photo, error) {
	data, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
	if err != nil {
		return Photo{}, fmt.Errorf("read photo: %w", err)
	}
	if len(data) > MaxBytes {
		return Photo{}, wrong(fmt.Sprintf("a photo of at most %d MB", MaxBytes>>20), "a larger file")
	}
	config, format, err := image.DecodeConfig(bytes.NewReader(data))
	switch {
	case err != nil:
		return Photo{}, wrong("a photo as JPEG, PNG or WebP", "a file that is none of them")
	case format != "jpeg" && format != "png" && format != "webp":
		return Photo{}, wrong("a photo as JPEG, PNG or WebP", format)
	case config.Width < 1 || config.Height < 1 || config.Width > MaxSide || config.Height > MaxSide || config.Width*config.Height > MaxPixels:
		return Photo{}, wrong(fmt.Sprintf("a photo of at most %d million pixels, %d to a side", MaxPixels/1_000_000, MaxSide), fmt.Sprintf("%d × %d", config.Width, config.Height))
	}
	picture, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return Photo{}, wrong("a whole photo", "a file that breaks off or is damaged")
	}
	turn := 1
	if format == "jpeg" {
		turn = orientation(data)
	}
	return write(upright(shrunk(picture, Side), turn))
}

// Thumb is a small one of a photo that is kept.
func Thumb(kept []byte) ([]byte, error) {
	picture, err := jpeg.Decode(bytes.NewReader(kept))
	if err != nil {
		return nil, fmt.Errorf("read a kept photo: %w", err)
	}
	small, err := write(shrunk(picture, ThumbSide))
	return small.JPEG, err
}

func write(picture image.Image) (Photo, error) {
	var out bytes.Buffer
	if err := jpeg.Encode(&out, picture, &jpeg.Options{Quality: quality}); err != nil {
		return Photo{}, fmt.Errorf("write photo: %w", err)
	}
	b := picture.Bounds()
	return Photo{out.Bytes(), b.Dx(), b.Dy()}, nil
}

func wrong(expected, got string) error {
	return invalid.Error{Field: "photo", Expected: expected, Got: got}
}

// orientation is how a camera was held, 1 to 8 as EXIF counts it; 1 where it does not say.
func orientation(data []byte) (turn int) {
	defer func() {
		if recover() != nil { // metadata from outside can be anything
			turn = 1
		}
	}()
	x, err := exif.Decode(bytes.NewReader(data))
	if err != nil {
		return 1
	}
	tag, err := x.Get(exif.Orientation)
	if err != nil {
		return 1
	}
	if n, err := tag.Int(0); err == nil && n >= 1 && n <= 8 {
		return n
	}
	return 1
}

// shrunk is a picture with its longest side at most so many pixels, on white.
func shrunk(picture image.Image, side int) *image.RGBA {
	b := picture.Bounds()
	w, h := b.Dx(), b.Dy()
	if long := max(w, h); long > side {
		w, h = max(1, w*side/long), max(1, h*side/long)
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(out, out.Bounds(), image.White, image.Point{}, draw.Src)
	draw.CatmullRom.Scale(out, out.Bounds(), picture, b, draw.Over, nil)
	return out
}

// upright turns and mirrors a picture as its orientation says.
func upright(p *image.RGBA, turn int) *image.RGBA {
	w, h := p.Bounds().Dx(), p.Bounds().Dy()
	if turn >= 5 {
		w, h = h, w
	}
	if turn == 1 {
		return p
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			// Where in the file the upright pixel lies.
			var sx, sy int
			switch turn {
			case 2:
				sx, sy = w-1-x, y
			case 3:
				sx, sy = w-1-x, h-1-y
			case 4:
				sx, sy = x, h-1-y
			case 5:
				sx, sy = y, x
			case 6:
				sx, sy = y, w-1-x
			case 7:
				sx, sy = h-1-y, w-1-x
			case 8:
				sx, sy = h-1-y, x
			}
			out.SetRGBA(x, y, p.RGBAAt(sx, sy))
		}
	}
	return out
}

// spot is how far about a point a colour is taken, as a share of the longest side.
const spot = 0.006

// ColourAt is the middle colour (by each channel's median) about a point of a kept photo, given
// as shares of its width and height from 0 to 1; each channel from 0 to 1.
func ColourAt(kept []byte, x, y float64) (r, g, b float64, err error) {
	picture, err := jpeg.Decode(bytes.NewReader(kept))
	if err != nil {
		return 0, 0, 0, fmt.Errorf("read a kept photo: %w", err)
	}
	size := picture.Bounds()
	cx, cy := int(x*float64(size.Dx()-1)+0.5), int(y*float64(size.Dy()-1)+0.5)
	about := max(1, int(spot*float64(max(size.Dx(), size.Dy()))))
	var channels [3][]uint32
	for py := max(0, cy-about); py <= min(size.Dy()-1, cy+about); py++ {
		for px := max(0, cx-about); px <= min(size.Dx()-1, cx+about); px++ {
			r, g, b, _ := picture.At(size.Min.X+px, size.Min.Y+py).RGBA()
			for i, v := range [3]uint32{r, g, b} {
				channels[i] = append(channels[i], v)
			}
		}
	}
	var out [3]float64
	for i, all := range channels {
		slices.Sort(all)
		out[i] = float64(all[len(all)/2]) / 0xffff
	}
	return out[0], out[1], out[2], nil
}
