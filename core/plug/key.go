package plug

import "math"

// Class is one possible state of a plug: its probability, and the probability of each sign of
// an aspect in that state, in the order of [Aspects].
type Class struct {
	P     float64
	Signs func(aspect string) []float64
}

// LeastBits is the least expected information of a question, in bits (judgement: less than a
// twentieth of a bit is not worth a tap).
const LeastBits = 0.04

// Next returns the question with the largest expected information, in bits, given a look so
// far. ok is false if none reaches [LeastBits]. The P of the classes sum to 1.
func Next(classes []Class, l Look) (ask Aspect, bits float64, ok bool) {
	p := After(classes, l)
	now := entropy(p)
	for _, a := range Aspects {
		if l.At(a) != "" {
			continue
		}
		if b := now - left(classes, p, a); b > bits+1e-12 {
			ask, bits = a, b
		}
	}
	return ask, bits, bits >= LeastBits
}

// After returns the probability of each class given a look.
func After(classes []Class, l Look) []float64 {
	p := make([]float64, len(classes))
	sum := 0.0
	for i, c := range classes {
		p[i] = c.P
		for _, a := range Aspects {
			if k := a.Index(l.At(a)); k >= 0 {
				p[i] *= c.Signs(a.ID)[k]
			}
		}
		sum += p[i]
	}
	for i := range p {
		p[i] /= sum
	}
	return p
}

// left returns the expected remaining entropy after looking at an aspect, in bits.
func left(classes []Class, p []float64, a Aspect) float64 {
	rows := make([][]float64, len(classes))
	for i, c := range classes {
		rows[i] = c.Signs(a.ID)
	}
	bits := 0.0
	then := make([]float64, len(classes))
	for k := range a.Signs {
		sum := 0.0
		for i := range classes {
			then[i] = p[i] * rows[i][k]
			sum += then[i]
		}
		if sum == 0 {
			continue
		}
		for i := range then {
			then[i] /= sum
		}
		bits += sum * entropy(then)
	}
	return bits
}

func entropy(p []float64) float64 {
	bits := 0.0
	for _, x := range p {
		if x > 0 {
			bits -= x * math.Log2(x)
		}
	}
	return bits
}
