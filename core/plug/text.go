package plug

import (
	"fmt"
	"strconv"
	"strings"

	"glenmist/core/invalid"
)

// Text writes the look in one line: "nose=tan wet=dry gap=0.95". An empty look is "".
func (l Look) Text() string {
	var words []string
	for _, a := range Aspects {
		if s := l.At(a); s != "" {
			words = append(words, a.ID+"="+string(s))
		}
	}
	if l.GapMM > 0 {
		words = append(words, "gap="+strconv.FormatFloat(l.GapMM, 'f', -1, 64))
	}
	return strings.Join(words, " ")
}

// maxText bounds a look in one line: all aspects with their longest signs.
const maxText = 400

// Parse reads the output of [Look.Text]. Errors are [invalid.Errors] by aspect.
func Parse(s string) (Look, error) {
	var l Look
	var bad invalid.Errors
	if len(s) > maxText {
		bad.Add("", fmt.Sprintf("at most %d characters", maxText), invalid.Quote(s))
		return l, bad
	}
	for _, word := range strings.Fields(s) {
		id, value, _ := strings.Cut(word, "=")
		if id == "gap" {
			mm, err := strconv.ParseFloat(value, 64)
			if err != nil || !(mm >= LeastGapMM && mm <= MostGapMM) {
				bad.Add("gap", fmt.Sprintf("a gap from %g to %g mm", LeastGapMM, MostGapMM), invalid.Quote(value))
				continue
			}
			l.GapMM = mm
			continue
		}
		a, ok := FindAspect(id)
		if !ok {
			bad.Add(id, "an aspect of a plug, such as nose", invalid.Quote(id))
			continue
		}
		sign, err := a.ParseSign(value)
		if err != nil {
			bad.Under(id, err)
			continue
		}
		l = l.With(a, sign)
	}
	if err := bad.Err(); err != nil {
		return Look{}, err
	}
	return l, nil
}
