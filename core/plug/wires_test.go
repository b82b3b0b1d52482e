package plug

import (
	"math/rand/v2"
	"testing"
)

// Against brute force: for every gap of a fine grid that would have made the wires answer
// as they did, is it in the range or not? All in is in, all out is out, else one cannot
// tell; and the wire that is named next would decide no less than any other.
func TestAgainstBruteForce(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 1))
	const step = 0.005
	grid := func(from int) float64 { return float64(from) * step }
	says := func(wires []Wire, low, high float64) GapVerdict {
		in, out := 0, 0
		for k := 20; k < 1200; k++ {
			g, fits := grid(k/2)+float64(k%2)*step/2, true
			for _, w := range wires {
				fits = fits && (!w.Tried || w.Passes == (w.MM <= g))
			}
			switch {
			case !fits:
			case g >= low && g <= high:
				in++
			default:
				out++
			}
		}
		switch {
		case out == 0 && in > 0:
			return In
		case in == 0 && out > 0:
			return Out
		}
		return CannotTell
	}
	told := map[GapVerdict]int{}
	for range 4000 {
		from := 60 + rng.IntN(140)
		low, high := grid(from), grid(from+rng.IntN(60))
		gap := grid(40+rng.IntN(260)) + step/2
		var wires []Wire
		at := 40 + rng.IntN(20)
		for range 2 + rng.IntN(12) {
			w := Wire{MM: grid(at), Tried: rng.IntN(2) == 0}
			w.Passes = w.Tried && w.MM <= gap
			wires = append(wires, w)
			at += 4 + rng.IntN(30)
		}
		b, err := JudgeWires(wires, low, high)
		if err != nil {
			t.Fatal(err)
		}
		want := says(wires, low, high)
		told[want]++
		if b.Verdict != want {
			t.Fatalf("%+v against %g to %g: %+v, by brute force %s", wires, low, high, b, want)
		}
		decides := func(mm float64) (n int) {
			for i, w := range wires {
				if w.MM != mm || w.Tried {
					continue
				}
				for _, passes := range []bool{true, false} {
					again := append([]Wire{}, wires...)
					again[i].Tried, again[i].Passes = true, passes
					if a, err := JudgeWires(again, low, high); err == nil && a.Verdict != CannotTell {
						n++
					}
				}
			}
			return n
		}
		if b.Verdict == CannotTell && b.Next > 0 {
			for _, w := range wires {
				if !w.Tried && w.MM > b.Low && w.MM < b.High && decides(w.MM) > decides(b.Next) {
					t.Fatalf("%+v against %g to %g: %g is named, %g decides more", wires, low, high, b.Next, w.MM)
				}
			}
		}
	}
	if told[In] < 20 || told[Out] < 500 || told[CannotTell] < 500 {
		t.Errorf("told apart: %v", told)
	}
}

func TestNoFurtherWireIsNamedWhereNoneWouldHelp(t *testing.T) {
	b, err := JudgeWires([]Wire{{0.8, true, true}, {1.1, true, false}}, 0.9, 1.0)
	if err != nil || b.Verdict != CannotTell || b.Next != 0 {
		t.Errorf("%+v, %v: no wire of the set would help", b, err)
	}
}
