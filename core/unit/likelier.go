package unit

import "strconv"

// Likelier describes a range of factors: "so 2× as likely", "so by kind 0.21× to 1.4× as
// likely".
func Likelier(least, most float64) string {
	low, high := Times(least), Times(most)
	switch {
	case low == high:
		return "so " + low + " as likely"
	case least >= 1:
		return "so likelier, " + low + " to " + high
	case most <= 1:
		return "so less likely, " + low + " to " + high
	}
	return "so by kind " + low + " to " + high + " as likely"
}

// Times writes a factor in two digits: "2.4×", "0.3×".
func Times(x float64) string { return strconv.FormatFloat(x, 'g', 2, 64) + "×" }
