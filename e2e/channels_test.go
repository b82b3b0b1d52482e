package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// channelFile writes a file with one channel for each of some cylinders: peaks of their own in kilovolts, twice as high on a
// snap in the second half unless the coil gives no more than limit. Each cylinder fires once a cycle at its place in the
// firing order, and on wasted spark once more at half the cycle, low.
func channelFile(t *testing.T, names []string, order, of []int, peaks map[int]float64, limits map[int]float64, wasted bool) string {
	t.Helper()
	const rate, cycle, cycles = 100_000, 0.16, 16
	var b strings.Builder
	b.WriteString("Time (ms)," + strings.Join(names, ",") + "\n(ms)" + strings.Repeat(",(kV)", len(names)) + "\n")
	for i := range int(rate * cycle * cycles) {
		now := float64(i) / rate
		fmt.Fprintf(&b, "%.2f", 1000*now)
		for _, c := range of {
			place := 0
			for k, o := range order {
				if o == c {
					place = k
				}
			}
			at := now - 0.01 - cycle*float64(place)/float64(len(order))
			n := int(at/cycle+1000) - 1000
			d := at - cycle*float64(n)
			half := d - cycle/2
			peak := peaks[c] + 0.2*float64(n%3)
			burn := 1.3
			if n >= cycles/2 {
				peak *= 2
			}
			if limit, ok := limits[c]; ok && peak > limit {
				peak, burn = limit, 0
			}
			v := 0.01 * float64(i%3)
			switch {
			case at >= 0 && d < 1.5e-5:
				v += peak
			case at >= 0 && d < 1.3e-3:
				v += burn
			case wasted && at >= 0 && half >= 0 && half < 1.5e-5:
				v += 1.8
			case wasted && at >= 0 && half >= 0 && half < 1.3e-3:
				v += 0.7
			}
			fmt.Fprintf(&b, ",%.3f", v)
		}
		b.WriteByte('\n')
	}
	path := filepath.Join(t.TempDir(), "channels.csv")
	if err := os.WriteFile(path, []byte(b.String()), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// By mouse: channels without names are asked about, with a picture of each, before anything is judged.
func TestChannelsAreAskedByMouse(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-81", "four-across", "idle")
	b.tool("kV")
	b.upload(channelFile(t, []string{"A", "B", "C", "D"}, []int{1, 3, 4, 2}, []int{1, 2, 3, 4}, map[int]float64{1: 9, 2: 9.3, 3: 17, 4: 9.1}, nil, false))
	b.sees("What does each channel show?", "The channels fire in the order 1-3-4-2.", "Channel 4")
	b.until(`document.querySelectorAll(".channel svg").length === 4 && !document.querySelector("table.kvs")`)
	b.goes(click("button", "Assign the channels"))
	b.sees("what this channel shows") // nothing was chosen
	for i, c := range []int{1, 2, 3, 4} {
		b.do(pick(fmt.Sprintf("channel%d", i), fmt.Sprintf("cyl-%d", c)))
	}
	b.accessible()
	b.goes(click("button", "Assign the channels"))
	b.sees("Cylinder 3: ", "One channel for each cylinder")
}

// By keys: on a four of wasted spark each cylinder has one other of its polarity; both polarities are compared.
func TestFewSiblingsByKeys(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-82", "four-pairs", "idle")
	b.goes(key("K"))
	b.upload(channelFile(t, []string{"Cyl 1", "Cyl 2", "Cyl 3", "Cyl 4"}, []int{1, 3, 4, 2}, []int{1, 2, 3, 4}, map[int]float64{1: 9, 2: 22, 3: 9.2, 4: 9.4}, nil, true))
	b.sees("Cylinder 2: ", "The idle event of each pair is kept apart.")
	b.goes(key("."))
	b.sees("Event by event")
	b.do(key("s")) // to the button that records
	b.goes(key(kb.Enter))
	b.sees("Capture 1: cylinder 2: ")
}

// A clamp on two of four cylinders compares nothing: that is said, and no cylinder is called in line.
func TestTooLittleToCompare(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-83", "four-across", "idle")
	b.tool("kV")
	b.upload(channelFile(t, []string{"Cyl 1", "#3"}, []int{1, 3, 4, 2}, []int{1, 3}, map[int]float64{1: 9, 3: 9.4}, nil, false))
	b.sees("Too little to compare cylinders 1 and 3", "Clamps on 2 of 4 cylinders", "no clamp on it")
	b.hides("stands out")
}

// A coil that gives no more on a snap shows it: its sparks miss.
func TestSnapShowsAWeakCoil(t *testing.T) {
	t.Parallel()
	b := open(t, "/jobs")
	openOn(t, b, "J-84", "four-across", "load")
	b.tool("kV")
	b.upload(channelFile(t, []string{"Cyl 1", "Cyl 2", "Cyl 3", "Cyl 4"}, []int{1, 3, 4, 2}, []int{1, 2, 3, 4}, map[int]float64{1: 9, 2: 9.2, 3: 9.1, 4: 9.3}, map[int]float64{2: 10}, false))
	b.sees("Cylinder 2: misses or burns short on snap")
}
