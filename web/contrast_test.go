package web_test

import (
	"math"
	"os"
	"regexp"
	"strconv"
	"testing"
)

// Text stands out by at least 4.5 to 1 and the outlines of controls by 3 to 1, in
// both themes (P: WCAG 2.1, success criteria 1.4.3 and 1.4.11 and its definition
// of contrast ratio, from memory).
func TestContrast(t *testing.T) {
	style, err := os.ReadFile("assets/src/_tokens.scss")
	if err != nil {
		t.Fatal(err)
	}
	tokens := map[string][2]string{}
	for _, m := range regexp.MustCompile(`--([a-z-]+): light-dark\((#[0-9a-f]{6}), (#[0-9a-f]{6})\)`).FindAllStringSubmatch(string(style), -1) {
		tokens[m[1]] = [2]string{m[2], m[3]}
	}
	for _, c := range []struct {
		front, back string
		least       float64
	}{
		{"peat", "mist", 4.5}, {"peat", "paper", 4.5}, {"peat", "inset", 4.5}, {"paper", "peat", 4.5},
		{"stone", "paper", 4.5}, {"stone", "mist", 4.5}, {"stone", "inset", 4.5},
		{"fell", "paper", 4.5}, {"on-fell", "fell", 4.5}, {"rowan", "paper", 4.5}, {"rowan", "mist", 4.5},
		{"peat", "rowan-wash", 4.5}, {"peat", "lichen-wash", 4.5}, {"peat", "loch-wash", 4.5},
		{"lichen", "paper", 4.5}, {"loch", "paper", 4.5}, {"paper", "loch", 4.5},
		{"edge", "paper", 3}, {"edge", "mist", 3}, {"loch", "mist", 3}, {"lichen", "lichen-wash", 3}, {"rowan", "rowan-wash", 3},
	} {
		for theme, name := range []string{"light", "dark"} {
			front, back := tokens[c.front][theme], tokens[c.back][theme]
			if front == "" || back == "" {
				t.Fatalf("no token %s or %s", c.front, c.back)
			}
			ratio := contrast(t, front, back)
			if ratio < c.least {
				t.Errorf("%s on %s, %s: %.2f to 1, want %.1f", c.front, c.back, name, ratio, c.least)
			}
		}
	}
}

func contrast(t *testing.T, a, b string) float64 {
	t.Helper()
	l := [2]float64{}
	for i, colour := range []string{a, b} {
		for k, weight := range []float64{0.2126, 0.7152, 0.0722} {
			n, err := strconv.ParseUint(colour[1+2*k:3+2*k], 16, 8)
			if err != nil {
				t.Fatal(err)
			}
			c := float64(n) / 255
			if c <= 0.03928 {
				c /= 12.92
			} else {
				c = math.Pow((c+0.055)/1.055, 2.4)
			}
			l[i] += weight * c
		}
	}
	return (max(l[0], l[1]) + 0.05) / (min(l[0], l[1]) + 0.05)
}
