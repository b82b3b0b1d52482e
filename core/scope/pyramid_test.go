package scope

import (
	"math/rand/v2"
	"slices"
	"testing"
)

// Every window is exactly what a plain search finds, whatever its ends and its columns.
func TestPyramid(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 9))
	for _, n := range []int{1, 2, 15, 16, 17, 255, 256, 257, 5000} {
		v := make([]float32, n)
		for i := range v {
			v[i] = ToHalf(float32(r.NormFloat64())).Float()
		}
		p := NewPyramid(Halves(v))
		for range 200 {
			from, to, columns := r.IntN(n+20)-10, r.IntN(n+20)-10, 1+r.IntN(40)
			low, high := p.Window(from, to, columns)
			a, b := max(0, from), min(n, to)
			if a >= b {
				if low != nil {
					t.Fatalf("%d to %d of %d is not empty", from, to, n)
				}
				continue
			}
			if len(low) != min(columns, b-a) || len(high) != len(low) {
				t.Fatalf("%d columns of %d samples: %d", columns, b-a, len(low))
			}
			for c := range low {
				part := v[a+(b-a)*c/len(low) : a+(b-a)*(c+1)/len(low)]
				if low[c] != slices.Min(part) || high[c] != slices.Max(part) {
					t.Fatalf("%d to %d of %d, column %d of %d: %v to %v, want %v to %v", from, to, n, c, len(low), low[c], high[c], slices.Min(part), slices.Max(part))
				}
			}
		}
	}
}

func BenchmarkWindow(b *testing.B) {
	v := make([]float32, 1_000_000)
	for i := range v {
		v[i] = float32(i % 977)
	}
	p := NewPyramid(Halves(v))
	for b.Loop() {
		p.Window(12_345, 987_654, 1200)
	}
}
