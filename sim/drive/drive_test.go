package drive

import (
	"math"
	"math/rand/v2"
	"testing"

	"glenmist/core/proof"
)

// The engine misfires as often as stated, and in bursts of the stated length.
func TestEngineMisfiresAsStated(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	for _, e := range []Engine{{0.02, 10}, {0.2, 4}, {0.01, 1}, {0.1, 1}, Independent(0.5)} {
		const events = 2_000_000
		n, bursts, in := 0, 0, false
		for range events {
			was := in
			var one int
			one, in = e.misfires(r, 1, in)
			n += one
			if in && !was {
				bursts++
			}
		}
		if rate := float64(n) / events; math.Abs(rate/e.Rate-1) > 0.04 {
			t.Errorf("%+v misfires at %.4f", e, rate)
		}
		if mean := float64(n) / float64(bursts); math.Abs(mean/e.Burst-1) > 0.02 {
			t.Errorf("%+v has bursts of %.2f", e, mean)
		}
	}
}

// A repair is called wrongly no more often than stated, by a test that knows neither the length of a burst
// nor how bursts begin, as long as they are as long as it assumes.
func TestErrorsStayWithinTheStatedRates(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	test := proof.Usual(0.02)
	for _, c := range []struct {
		actual float64 // relative to the rate before
		wrong  proof.State
	}{{1, proof.Proven}, {0.1, proof.NotFixed}, {0, proof.NotFixed}} {
		const runs = 1500
		wrong := 0
		for range runs {
			if s, _ := (Engine{0.02 * c.actual, 10}).Until(r, test, 50, 200_000); s == c.wrong {
				wrong++
			}
		}
		// three standard errors above the stated rate
		if limit := 0.05 + 3*math.Sqrt(0.05*0.95/runs); float64(wrong)/runs > limit {
			t.Errorf("at %g of the rate, %d of %d are called %s, above %.3f", c.actual, wrong, runs, c.wrong, limit)
		}
	}
}
