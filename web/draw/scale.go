package draw

import (
	"fmt"
	"math"
	"strings"

	"glenmist/core/spark"
)

// Scale draws a test's kilovolts on a scale of 480 by 146.
type Scale struct {
	Proven, Perhaps int // end of the proven part, end of the range
	ProvenWords     string
	ProvenX         int  // position of its label: inside the bar, or
	Beside          bool // beside it if the bar is short
	Ticks           []scaleTick
	Needs           []scaleNeed
	Words           string
}

type scaleTick struct{ X, KV int }

type scaleNeed struct {
	X, Y    int
	Words   string
	Cleared bool
}

// NewScale lays out a test on a scale of kilovolts.
func NewScale(s *spark.Scale) *Scale {
	// The labels of the needs stand to the right of their lines, one below the other. The
	// largest need leaves room, so that no line crosses them.
	const width, left, room = 448.0, 14, 0.66
	most := s.Proof.High
	for _, n := range s.Needs {
		most = max(most, n.KV/room)
	}
	step := 5
	if most > 40 {
		step = 10
	}
	end := float64(step) * math.Ceil(most/float64(step))
	x := func(kV float64) int { return int(math.Round(left + width*kV/end)) }
	v := &Scale{Proven: x(s.Proof.Low), Perhaps: x(s.Proof.High), ProvenWords: fmt.Sprintf("%.1f kV proven", s.Proof.Low)}
	if v.ProvenX = left + 8; v.Proven < 150 {
		v.ProvenX, v.Beside = v.Perhaps+8, true
	}
	for kV := 0; float64(kV) <= end; kV += step {
		v.Ticks = append(v.Ticks, scaleTick{x(float64(kV)), kV})
	}
	var words []string
	for i, n := range s.Needs {
		need := scaleNeed{X: x(n.KV), Y: 16 + 21*i, Words: fmt.Sprintf("✕ %s %.1f kV", n.Condition.Words, n.KV), Cleared: n.Cleared}
		if n.Cleared {
			need.Words = strings.Replace(need.Words, "✕", "✓", 1)
		}
		v.Needs = append(v.Needs, need)
		words = append(words, need.Words)
	}
	v.Words = v.ProvenWords + ": " + strings.Join(words, ", ")
	return v
}
