// Package photo makes a photo that comes from outside safe and small: decoded within bounds,
// turned upright, scaled, and written anew, so that nothing that came with the file is kept.
package photo

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"image"
	"image/jpeg"
	_ "image/png" // a format that is read
	"io"
	"slices"

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
// all that is not its pixels. It waits until there is memory for it. Errors are
// [invalid.Error], [ErrBusy], or the context's.
func Clean(ctx context.Context, file io.ReadSeeker) (Photo, error) {
	size, err := file.Seek(0, io.SeekEnd)
	if err != nil {
		return Photo{}, fmt.Errorf("read photo: %w", err)
	}
	if size > MaxBytes {
		return Photo{}, wrong(fmt.Sprintf("a photo of at most %d MB", MaxBytes>>20), "a larger file")
	}
	start := func() (io.Reader, error) {
		_, err := file.Seek(0, io.SeekStart)
		return bufio.NewReaderSize(file, 64<<10), err
	}
	in, err := start()
	if err != nil {
		return Photo{}, fmt.Errorf("read photo: %w", err)
	}
	config, format, err := image.DecodeConfig(in)
	switch {
	case err != nil:
		return Photo{}, wrong("a photo as JPEG, PNG or WebP", "a file that is none of them")
	case format != "jpeg" && format != "png" && format != "webp":
		return Photo{}, wrong("a photo as JPEG, PNG or WebP", format)
	case config.Width < 1 || config.Height < 1 || config.Width > MaxSide || config.Height > MaxSide || config.Width*config.Height > MaxPixels:
		return Photo{}, wrong(fmt.Sprintf("a photo of at most %d million pixels, %d to a side", MaxPixels/1_000_000, MaxSide), fmt.Sprintf("%d × %d", config.Width, config.Height))
	}
	damaged := wrong("a whole photo", "a file that breaks off or is damaged")
	about, err := inspect(file, format, config.Width, config.Height)
	if err != nil {
		return Photo{}, damaged
	}
	if about.bytes > MaxDecoded {
		return Photo{}, wrong(fmt.Sprintf("a photo that takes at most %d MB of memory; save it as JPEG or make it smaller", MaxDecoded>>20), fmt.Sprintf("%d × %d that take %d MB", config.Width, config.Height, about.bytes>>20))
	}
	release, err := reserve(ctx, about.bytes)
	if err != nil {
		return Photo{}, err
	}
	defer release()
	if in, err = start(); err != nil {
		return Photo{}, fmt.Errorf("read photo: %w", err)
	}
	picture, _, err := image.Decode(in)
	if err != nil {
		return Photo{}, damaged
	}
	return write(upright(shrink(picture, Side), about.orientation))
}

// Thumb is a small one of a photo that is kept.
func Thumb(ctx context.Context, kept []byte) ([]byte, error) {
	picture, release, err := open(ctx, kept)
	if err != nil {
		return nil, err
	}
	defer release()
	small, err := write(shrink(picture, ThumbSide))
	return small.JPEG, err
}

// open decodes a photo that is kept. release gives its memory back.
func open(ctx context.Context, kept []byte) (picture image.Image, release func(), err error) {
	if release, err = reserve(ctx, keptBytes); err != nil {
		return nil, nil, err
	}
	if picture, err = jpeg.Decode(bytes.NewReader(kept)); err != nil {
		release()
		return nil, nil, fmt.Errorf("read a kept photo: %w", err)
	}
	return picture, release, nil
}

// keptBytes is what a photo that is kept takes when it is decoded, with its small one.
const keptBytes = 3 * Side * Side

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

// spot is how far about a point a colour is taken, as a share of the longest side.
const spot = 0.006

// ColourAt is the middle colour (by each channel's median) about a point of a kept photo, given
// as shares of its width and height from 0 to 1; each channel from 0 to 1.
func ColourAt(ctx context.Context, kept []byte, x, y float64) (r, g, b float64, err error) {
	picture, release, err := open(ctx, kept)
	if err != nil {
		return 0, 0, 0, err
	}
	defer release()
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
