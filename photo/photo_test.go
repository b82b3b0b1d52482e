package photo

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"runtime"
	"strings"
	"testing"

	"glenmist/core/invalid"
)

// corners is a picture of which each corner has its own colour: red, green, blue, white.
func corners(w, h int) *image.RGBA {
	p := image.NewRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			c := color.RGBA{200, 0, 0, 255}
			switch {
			case x >= w/2 && y < h/2:
				c = color.RGBA{0, 200, 0, 255}
			case x < w/2 && y >= h/2:
				c = color.RGBA{0, 0, 200, 255}
			case x >= w/2:
				c = color.RGBA{230, 230, 230, 255}
			}
			p.SetRGBA(x, y, c)
		}
	}
	return p
}

func asJPEG(t testing.TB, p image.Image) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := jpeg.Encode(&b, p, &jpeg.Options{Quality: 95}); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func asPNG(t testing.TB, p image.Image) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := png.Encode(&b, p); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// withEXIF puts an orientation, a camera's name and a place into a JPEG, as a camera writes them
// (P: Exif 2.3: an APP1 segment with a TIFF in it; tag 0x0112 orientation, 0x010F maker, 0x8825
// the place, with its latitude as three rationals).
func withEXIF(t testing.TB, jpg []byte, turn uint16) []byte {
	t.Helper()
	var tiff bytes.Buffer
	put := func(values ...any) {
		for _, v := range values {
			if err := binary.Write(&tiff, binary.BigEndian, v); err != nil {
				t.Fatal(err)
			}
		}
	}
	maker := "Secret Camera Works\x00"
	const ifd, entries = 8, 3
	after := uint32(ifd + 2 + 12*entries + 4)
	place := after + uint32(len(maker))
	put([]byte("MM\x00\x2a"), uint32(ifd), uint16(entries))
	put(uint16(0x010F), uint16(2), uint32(len(maker)), after)
	put(uint16(0x0112), uint16(3), uint32(1), turn, uint16(0))
	put(uint16(0x8825), uint16(4), uint32(1), place)
	put(uint32(0), []byte(maker))
	put(uint16(1), uint16(2), uint16(5), uint32(3), place+2+12+4, uint32(0))
	put(uint32(54), uint32(1), uint32(31), uint32(1), uint32(0), uint32(1))
	app1 := append([]byte("Exif\x00\x00"), tiff.Bytes()...)
	out := append([]byte{}, jpg[:2]...)
	out = append(out, 0xFF, 0xE1, byte((len(app1)+2)>>8), byte(len(app1)+2))
	return append(append(out, app1...), jpg[2:]...)
}

func TestTurnedUprightAndStripped(t *testing.T) {
	near := func(c color.Color, r, g, b uint32) bool {
		x, y, z, _ := c.RGBA()
		off := func(a, b uint32) bool { return max(a>>8, b)-min(a>>8, b) < 40 }
		return off(x, r) && off(y, g) && off(z, b)
	}
	// Where the red corner of the upright picture comes out, when the file holds it turned so
	// (P: Exif 2.3, orientation 1 to 8): the file's first row and column are the upright one's.
	for turn, c := range map[uint16]struct{ x, y int }{1: {0, 0}, 2: {1, 0}, 3: {1, 1}, 4: {0, 1}, 5: {0, 0}, 6: {1, 0}, 7: {1, 1}, 8: {0, 1}} {
		data := withEXIF(t, asJPEG(t, corners(80, 40)), turn)
		if !bytes.Contains(data, []byte("Secret Camera")) {
			t.Fatal("the file has no metadata to begin with")
		}
		got, err := Clean(t.Context(), bytes.NewReader(data))
		if err != nil {
			t.Fatalf("orientation %d: %v", turn, err)
		}
		w, h := 80, 40
		if turn >= 5 {
			w, h = 40, 80
		}
		if got.Width != w || got.Height != h {
			t.Errorf("orientation %d: %d × %d", turn, got.Width, got.Height)
		}
		p, err := jpeg.Decode(bytes.NewReader(got.JPEG))
		if err != nil {
			t.Fatal(err)
		}
		x, y := w/4+c.x*w/2, h/4+c.y*h/2
		if !near(p.At(x, y), 200, 0, 0) {
			t.Errorf("orientation %d: at %d, %d is %v", turn, x, y, p.At(x, y))
		}
		for _, secret := range []string{"Secret Camera", "Exif", "MM\x00\x2a"} {
			if bytes.Contains(got.JPEG, []byte(secret)) {
				t.Errorf("orientation %d: %q was kept", turn, secret)
			}
		}
	}
}

func TestScaled(t *testing.T) {
	got, err := Clean(t.Context(), bytes.NewReader(asPNG(t, corners(3200, 800))))
	if err != nil || got.Width != Side || got.Height != Side/4 {
		t.Errorf("%d × %d, %v", got.Width, got.Height, err)
	}
	small, err := Thumb(t.Context(), got.JPEG)
	if err != nil || len(small) >= len(got.JPEG) {
		t.Errorf("a small one of %d bytes, %v", len(small), err)
	}
	r, g, b, err := ColourAt(t.Context(), got.JPEG, 0.25, 0.25)
	if err != nil || r < 0.7 || g > 0.1 || b > 0.1 {
		t.Errorf("red is %g %g %g, %v", r, g, b, err)
	}
}

// claims is a PNG whose header says it is so large, with no pixels behind it.
func claims(w, h uint32) []byte { return claimsDepth(w, h, 8, 2, 0) }

// claimsDepth is the same with bits per sample, colour type and interlacing (P: PNG, IHDR).
func claimsDepth(w, h uint32, depth, colour, interlace byte) []byte {
	var b bytes.Buffer
	b.WriteString("\x89PNG\r\n\x1a\n")
	head := append([]byte("IHDR"), binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, w), h)...)
	head = append(head, depth, colour, 0, 0, interlace)
	_ = binary.Write(&b, binary.BigEndian, uint32(len(head)-4))
	b.Write(head)
	_ = binary.Write(&b, binary.BigEndian, crc32.ChecksumIEEE(head))
	return b.Bytes()
}

func TestRefused(t *testing.T) {
	good := asJPEG(t, corners(60, 60))
	for name, c := range map[string]struct {
		data     []byte
		expected string
	}{
		"a bomb of 60 000 × 60 000":  {claims(60_000, 60_000), "million pixels"},
		"long and thin":              {claims(200_000, 2), "to a side"},
		"many pixels, each side few": {claims(11_000, 11_000), "million pixels"},
		"no picture":                 {[]byte("<script>alert(1)</script>"), "JPEG, PNG or WebP"},
		"empty":                      {nil, "JPEG, PNG or WebP"},
		"a drawing":                  {[]byte(`<svg xmlns="http://www.w3.org/2000/svg"/>`), "JPEG, PNG or WebP"},
		"breaks off":                 {good[:len(good)/2], "whole photo"},
		"a header alone":             {claims(100, 100), "whole photo"},
		"60 megapixels of 16 bits":   {claimsDepth(8_000, 7_500, 16, 6, 0), "128 MB of memory"},
		"30 megapixels, interlaced":  {claimsDepth(6_000, 5_000, 8, 6, 1), "128 MB of memory"},
	} {
		_, err := Clean(t.Context(), bytes.NewReader(c.data))
		bad, ok := errors.AsType[invalid.Error](err)
		if !ok || !strings.Contains(bad.Expected, c.expected) {
			t.Errorf("%s: %v, want %q", name, err, c.expected)
		}
	}
}

// A file that is a picture and something else as well comes out as the picture alone.
func TestPolyglotIsCleaned(t *testing.T) {
	evil := "PK\x03\x04 <script>alert(1)</script> #!/bin/sh"
	for name, data := range map[string][]byte{"behind a JPEG": append(asJPEG(t, corners(60, 60)), evil...), "behind a PNG": append(asPNG(t, corners(60, 60)), evil...)} {
		got, err := Clean(t.Context(), bytes.NewReader(data))
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if bytes.Contains(got.JPEG, []byte("<script>")) || bytes.Contains(got.JPEG, []byte("PK\x03\x04")) || !bytes.HasPrefix(got.JPEG, []byte{0xFF, 0xD8, 0xFF}) {
			t.Errorf("%s: something of it was kept", name)
		}
	}
}

// A frame header is what tells how much memory the decoder takes (P: ITU-T T.81, B.2.2).
func TestFrameBytes(t *testing.T) {
	frame := func(sampling ...byte) []byte {
		data := []byte{8, 0, 10, 0, 10, byte(len(sampling))}
		for i, s := range sampling {
			data = append(data, byte(i+1), s, 0)
		}
		return data
	}
	for name, c := range map[string]struct {
		frame       []byte
		progressive bool
		want        int64
	}{
		"grey":                     {frame(0x11), false, 1000},
		"colour halved both ways":  {frame(0x22, 0x11, 0x11), false, 1500},
		"the same, progressive":    {frame(0x22, 0x11, 0x11), true, 7500},
		"colour whole, may be RGB": {frame(0x11, 0x11, 0x11), false, 7000},
		"four components":          {frame(0x11, 0x11, 0x11, 0x11), false, 12000},
		"a frame that breaks off":  {frame(0x22, 0x11)[:8], false, 0},
		"no frame":                 {nil, true, 0},
	} {
		if got := frameBytes(c.frame, c.progressive, 1000); got != c.want {
			t.Errorf("%s: %d bytes, want %d", name, got, c.want)
		}
	}
}

// What a 12-megapixel photo takes of the memory is what its samples take and little more: it is
// made smaller strip by strip.
func TestLargePhotoTakesLittleMemory(t *testing.T) {
	data := asJPEG(t, corners(4000, 3000))
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	got, err := Clean(t.Context(), bytes.NewReader(data))
	runtime.ReadMemStats(&after)
	if err != nil || got.Width != Side || got.Height != Side*3/4 {
		t.Fatalf("%d × %d, %v", got.Width, got.Height, err)
	}
	if took := after.TotalAlloc - before.TotalAlloc; took > 60<<20 {
		t.Errorf("took %d MB in all, want at most 60: 18 of samples and 16 of smaller pictures", took>>20)
	}
}

// While memory is short a picture waits; it goes away with its asker, and is refused at once when
// too many wait.
func TestMemoryIsShared(t *testing.T) {
	data := asJPEG(t, corners(60, 60))
	release, err := reserve(t.Context(), MaxDecoded)
	if err != nil {
		t.Fatal(err)
	}
	gone, leave := context.WithCancel(t.Context())
	leave()
	if _, err := Clean(gone, bytes.NewReader(data)); !errors.Is(err, context.Canceled) {
		t.Errorf("an asker who has gone: %v", err)
	}
	waiting.Add(maxWaiting)
	if _, err := Clean(t.Context(), bytes.NewReader(data)); !errors.Is(err, ErrBusy) {
		t.Errorf("too many wait: %v", err)
	}
	waiting.Add(-maxWaiting)
	release()
	if _, err := Clean(t.Context(), bytes.NewReader(data)); err != nil {
		t.Errorf("memory is free again: %v", err)
	}
}

func BenchmarkClean12Megapixels(b *testing.B) {
	data := asJPEG(b, corners(4000, 3000))
	for b.Loop() {
		if _, err := Clean(b.Context(), bytes.NewReader(data)); err != nil {
			b.Fatal(err)
		}
	}
}

func FuzzClean(f *testing.F) {
	f.Add(asJPEG(f, corners(20, 10)))
	f.Add(asPNG(f, corners(20, 10)))
	f.Add(withEXIF(f, asJPEG(f, corners(20, 10)), 6))
	f.Add(claims(60_000, 60_000))
	f.Fuzz(func(t *testing.T, data []byte) {
		if config, _, err := image.DecodeConfig(bytes.NewReader(data)); err == nil && config.Width*config.Height > 1_000_000 {
			t.Skip("large ones take long, and are held by a bound of their own")
		}
		got, err := Clean(t.Context(), bytes.NewReader(data))
		if err != nil {
			if len(invalid.From(err)) == 0 {
				t.Fatal(err)
			}
			return
		}
		if _, err := jpeg.Decode(bytes.NewReader(got.JPEG)); err != nil || got.Width > Side || got.Height > Side {
			t.Fatalf("%d × %d, %v", got.Width, got.Height, err)
		}
	})
}

// The smallest WebP there is, one pixel without loss, is read as well.
func TestWebP(t *testing.T) {
	data, err := base64.StdEncoding.DecodeString("UklGRhoAAABXRUJQVlA4TA0AAAAvAAAAEAcQERGIiP4HAA==")
	if err != nil {
		t.Fatal(err)
	}
	if got, err := Clean(t.Context(), bytes.NewReader(data)); err != nil || got.Width != 1 || got.Height != 1 {
		t.Errorf("%d × %d, %v", got.Width, got.Height, err)
	}
	if _, err := Clean(t.Context(), bytes.NewReader(data[:len(data)-8])); err == nil {
		t.Error("half of one is read")
	}
}
