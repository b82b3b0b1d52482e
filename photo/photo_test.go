package photo

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
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
		got, err := Clean(bytes.NewReader(data))
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
	got, err := Clean(bytes.NewReader(asPNG(t, corners(3200, 800))))
	if err != nil || got.Width != Side || got.Height != Side/4 {
		t.Errorf("%d × %d, %v", got.Width, got.Height, err)
	}
	small, err := Thumb(got.JPEG)
	if err != nil || len(small) >= len(got.JPEG) {
		t.Errorf("a small one of %d bytes, %v", len(small), err)
	}
	r, g, b, err := ColourAt(got.JPEG, 0.25, 0.25)
	if err != nil || r < 0.7 || g > 0.1 || b > 0.1 {
		t.Errorf("red is %g %g %g, %v", r, g, b, err)
	}
}

// claims is a PNG whose header says it is so large, with no pixels behind it.
func claims(w, h uint32) []byte {
	var b bytes.Buffer
	b.WriteString("\x89PNG\r\n\x1a\n")
	head := append([]byte("IHDR"), binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, w), h)...)
	head = append(head, 8, 2, 0, 0, 0)
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
	} {
		_, err := Clean(bytes.NewReader(c.data))
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
		got, err := Clean(bytes.NewReader(data))
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if bytes.Contains(got.JPEG, []byte("<script>")) || bytes.Contains(got.JPEG, []byte("PK\x03\x04")) || !bytes.HasPrefix(got.JPEG, []byte{0xFF, 0xD8, 0xFF}) {
			t.Errorf("%s: something of it was kept", name)
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
		got, err := Clean(bytes.NewReader(data))
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
	if got, err := Clean(bytes.NewReader(data)); err != nil || got.Width != 1 || got.Height != 1 {
		t.Errorf("%d × %d, %v", got.Width, got.Height, err)
	}
	if _, err := Clean(bytes.NewReader(data[:len(data)-8])); err == nil {
		t.Error("half of one is read")
	}
}
