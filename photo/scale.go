package photo

import (
	"image"

	"golang.org/x/image/draw"
	"golang.org/x/image/math/f64"
)

// shrink scales a picture so that its longest side has at most so many pixels, on white.
// It first averages squares of whole pixels, strip by strip, until less than half remains
// to be taken away, so that it takes little time and memory whatever the format.
func shrink(picture image.Image, side int) *image.RGBA {
	b := picture.Bounds()
	long := max(b.Dx(), b.Dy())
	if square := long / side; square > 1 {
		picture = average(picture, square)
		b = picture.Bounds()
		long = max(b.Dx(), b.Dy())
	}
	w, h := b.Dx(), b.Dy()
	if long > side {
		w, h = max(1, w*side/long), max(1, h*side/long)
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(out, out.Bounds(), image.White, image.Point{}, draw.Src)
	draw.ApproxBiLinear.Scale(out, out.Bounds(), picture, b, draw.Over, nil)
	return out
}

// average makes one pixel of each square of n by n pixels, on white. What is left over at
// the right and at the bottom is less than a pixel and falls away.
func average(picture image.Image, n int) *image.RGBA {
	b := picture.Bounds()
	w, h := max(1, b.Dx()/n), max(1, b.Dy()/n)
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	strip := image.NewRGBA(image.Rect(0, 0, b.Dx(), min(n, b.Dy())))
	rows, columns := strip.Rect.Dy(), min(n, b.Dx())
	area := uint32(rows * columns)
	sums := make([][3]uint32, w)
	for y := range h {
		draw.Draw(strip, strip.Rect, image.White, image.Point{}, draw.Src)
		draw.Draw(strip, strip.Rect, picture, image.Pt(b.Min.X, b.Min.Y+y*n), draw.Over)
		clear(sums)
		for row := range rows {
			line := strip.Pix[row*strip.Stride:]
			for x := range w {
				s, at := &sums[x], 4*x*n
				for range columns {
					s[0] += uint32(line[at])
					s[1] += uint32(line[at+1])
					s[2] += uint32(line[at+2])
					at += 4
				}
			}
		}
		for x, s := range sums {
			at := y*out.Stride + 4*x
			out.Pix[at], out.Pix[at+1], out.Pix[at+2], out.Pix[at+3] = byte(s[0]/area), byte(s[1]/area), byte(s[2]/area), 0xFF
		}
	}
	return out
}

// turns maps a point of the file to a point of the upright picture, for each orientation
// (P: Exif 2.3, 4.6.4): x' = a·x + b·y + c·w, y' = d·x + e·y + f·h, where w and h are the
// sides of the upright picture.
var turns = [9]struct{ a, b, c, d, e, f float64 }{
	2: {-1, 0, 1, 0, 1, 0},
	3: {-1, 0, 1, 0, -1, 1},
	4: {1, 0, 0, 0, -1, 1},
	5: {0, 1, 0, 1, 0, 0},
	6: {0, -1, 1, 1, 0, 0},
	7: {0, -1, 1, -1, 0, 1},
	8: {0, 1, 0, -1, 0, 1},
}

// upright turns and mirrors a picture as its orientation says, 1 to 8.
func upright(p *image.RGBA, orientation int) *image.RGBA {
	if orientation <= 1 || orientation >= len(turns) {
		return p
	}
	w, h := p.Bounds().Dx(), p.Bounds().Dy()
	if orientation >= 5 {
		w, h = h, w
	}
	t := turns[orientation]
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.NearestNeighbor.Transform(out, f64.Aff3{t.a, t.b, t.c * float64(w), t.d, t.e, t.f * float64(h)}, p, p.Bounds(), draw.Src, nil)
	return out
}
