package scope

import "slices"

// Pyramid is the samples of a channel with the least and the greatest of each block of them, of
// each block of blocks, and so on: any stretch of any length is drawn from a few of them.
type Pyramid struct {
	samples []float32
	levels  [][]span // of blocks of step, step², … samples
}

type span struct{ low, high float32 }

// step is how many blocks make one of the next level.
const step = 16

// NewPyramid builds one; it holds on to the samples.
func NewPyramid(samples []float32) *Pyramid {
	p := &Pyramid{samples: samples}
	if len(samples) <= step {
		return p
	}
	level := make([]span, 0, len(samples)/step+1)
	for block := range slices.Chunk(samples, step) {
		s := span{block[0], block[0]}
		for _, v := range block[1:] {
			s.low, s.high = min(s.low, v), max(s.high, v)
		}
		level = append(level, s)
	}
	p.levels = append(p.levels, level)
	for len(level) > step {
		next := make([]span, 0, len(level)/step+1)
		for block := range slices.Chunk(level, step) {
			next = append(next, over(block))
		}
		p.levels = append(p.levels, next)
		level = next
	}
	return p
}

func over(of []span) span {
	s := of[0]
	for _, o := range of[1:] {
		s.low, s.high = min(s.low, o.low), max(s.high, o.high)
	}
	return s
}

// Len is how many samples there are.
func (p *Pyramid) Len() int { return len(p.samples) }

// Window is the samples from one up to, and without, another, in so many columns: the least and
// the greatest of each, exactly. Where there are fewer samples than columns each has its own;
// what lies outside is left out.
func (p *Pyramid) Window(from, to, columns int) (low, high []float32) {
	from, to = max(0, from), min(len(p.samples), to)
	if from >= to || columns < 1 {
		return nil, nil
	}
	columns = min(columns, to-from)
	low, high = make([]float32, columns), make([]float32, columns)
	for c := range columns {
		s := p.between(from+int(int64(to-from)*int64(c)/int64(columns)), from+int(int64(to-from)*int64(c+1)/int64(columns)))
		low[c], high[c] = s.low, s.high
	}
	return low, high
}

// between is the least and the greatest of a stretch, by the largest blocks that lie in it.
func (p *Pyramid) between(from, to int) span {
	s := span{p.samples[from], p.samples[from]}
	take := func(o span) { s.low, s.high = min(s.low, o.low), max(s.high, o.high) }
	for from < to {
		size, level := 1, -1
		for level+1 < len(p.levels) && from%(size*step) == 0 && from+size*step <= to {
			size *= step
			level++
		}
		if level < 0 {
			take(span{p.samples[from], p.samples[from]})
		} else {
			take(p.levels[level][from/size])
		}
		from += size
	}
	return s
}
