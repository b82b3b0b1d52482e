// Package unit parses and formats the quantities that technicians type, in metric and imperial
// units. Each quantity is stored in one typed unit.
package unit

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"glenmist/core/invalid"
)

// Kilometres is a driven distance.
type Kilometres float64

// KilometresPerMile is the international mile: 5280 ft of 12 in of exactly
// 25.4 mm (P: international inch).
const KilometresPerMile = 1.609344

// MaxDistance is the largest plausible odometer reading.
const MaxDistance Kilometres = 5_000_000

// Miles converts to statute miles.
func (k Kilometres) Miles() float64 { return float64(k) / KilometresPerMile }

// String returns whole kilometres and miles: "184 000 km (114 332 mi)".
func (k Kilometres) String() string {
	return fmt.Sprintf("%s km (%s mi)", Thousands(int(math.Round(float64(k)))), Thousands(int(math.Round(k.Miles()))))
}

// ParseDistance reads "184000", "184 000 km", "114,332 mi" or "114332 miles".
// A bare number is kilometres.
func ParseDistance(s string) (Kilometres, error) {
	bad := invalid.Error{Expected: "a distance from 0 to 5 000 000 km, such as 184 000 km or 114 000 mi", Got: invalid.Quote(s)}
	text := strings.ToLower(strings.TrimSpace(s))
	factor := 1.0
	for _, u := range []struct {
		suffix string
		factor float64
	}{{"kilometres", 1}, {"km", 1}, {"miles", KilometresPerMile}, {"mi", KilometresPerMile}} {
		if rest, ok := strings.CutSuffix(text, u.suffix); ok {
			text, factor = strings.TrimSpace(rest), u.factor
			break
		}
	}
	v, err := strconv.ParseFloat(ungroup(text), 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) || v < 0 {
		return 0, bad
	}
	k := Kilometres(v * factor)
	if k > MaxDistance {
		return 0, bad
	}
	return k, nil
}

// ungroup removes thousands separators: spaces (also narrow ones), apostrophes, and commas
// before three digits.
func ungroup(s string) string {
	s = strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "'", "", "’", "").Replace(s)
	parts := strings.Split(s, ",")
	for _, p := range parts[1:] {
		if whole, _, _ := strings.Cut(p, "."); len(whole) != 3 {
			return s
		}
	}
	return strings.Join(parts, "")
}

// Thousands writes n with narrow no-break spaces between thousands.
func Thousands(n int) string {
	s := strconv.Itoa(n)
	sign := ""
	if n < 0 {
		sign, s = "−", s[1:]
	}
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "\u202f" + s[i:]
	}
	return sign + s
}

// Capital changes the first letter to upper case.
func Capital(s string) string { return changeFirst(s, unicode.ToUpper) }

// Lower changes the first letter to lower case.
func Lower(s string) string { return changeFirst(s, unicode.ToLower) }

func changeFirst(s string, to func(rune) rune) string {
	r, n := utf8.DecodeRuneInString(s)
	if n == 0 {
		return s
	}
	return string(to(r)) + s[n:]
}
