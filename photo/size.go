package photo

import (
	"encoding/binary"
	"errors"
	"io"
)

// about is what the head of a file says of the picture in it.
type about struct {
	// bytes is what decoding takes of the memory.
	bytes int64
	// orientation is how the camera was held: 1 to 8 as Exif counts it, 1 where it is not said.
	orientation int
}

// inspect reads the head of a picture of a format that [image.DecodeConfig] has named.
func inspect(r io.ReadSeeker, format string, width, height int) (about, error) {
	pixels := int64(width) * int64(height)
	if _, err := r.Seek(0, io.SeekStart); err != nil {
		return about{}, err
	}
	switch format {
	case "jpeg":
		return inspectJPEG(r, pixels)
	case "png":
		var head [29]byte // signature and IHDR
		if _, err := io.ReadFull(r, head[:]); err != nil {
			return about{}, err
		}
		depth, colour, interlaced := head[24], head[25], head[28]
		each := int64(4)
		switch {
		case depth == 16:
			each = 8
		case colour == 3: // a palette
			each = 1
		}
		if interlaced != 0 { // each pass is a picture of its own
			each *= 2
		}
		return about{each * pixels, 1}, nil
	}
	var head [16]byte // RIFF, size, WEBP, kind of the first chunk
	if _, err := io.ReadFull(r, head[:]); err != nil {
		return about{}, err
	}
	if string(head[12:]) == "VP8 " {
		return about{2 * pixels, 1}, nil
	}
	return about{10 * pixels, 1}, nil // without loss, or with an alpha channel
}

// Markers of a JPEG (P: ITU-T T.81, table B.1).
const (
	startOfFrame = 0xC0 // C0 baseline, C1 extended, C2 progressive
	startOfScan  = 0xDA
	application1 = 0xE1
)

var errJPEG = errors.New("no frame header")

// inspectJPEG walks the segments up to the frame header.
func inspectJPEG(r io.ReadSeeker, pixels int64) (about, error) {
	found := about{orientation: 1}
	if _, err := r.Seek(2, io.SeekStart); err != nil {
		return found, err
	}
	for range 1000 {
		var head [4]byte // FF, marker, length
		if _, err := io.ReadFull(r, head[:]); err != nil {
			return found, err
		}
		marker, length := head[1], int(binary.BigEndian.Uint16(head[2:]))-2
		if head[0] != 0xFF || marker == startOfScan || length < 0 {
			return found, errJPEG
		}
		if marker == 0xFF { // a fill byte
			if _, err := r.Seek(-3, io.SeekCurrent); err != nil {
				return found, err
			}
			continue
		}
		switch {
		case marker == application1:
			data := make([]byte, length)
			if _, err := io.ReadFull(r, data); err != nil {
				return found, err
			}
			if o := exifOrientation(data); o != 1 {
				found.orientation = o
			}
		case marker >= startOfFrame && marker <= startOfFrame+2:
			data := make([]byte, length)
			if _, err := io.ReadFull(r, data); err != nil {
				return found, err
			}
			found.bytes = frameBytes(data, marker == startOfFrame+2, pixels)
			return found, nil
		default:
			if _, err := r.Seek(int64(length), io.SeekCurrent); err != nil {
				return found, err
			}
		}
	}
	return found, errJPEG
}

// frameBytes returns the memory that the standard decoder needs for a frame. That is the
// samples of its components, four bytes more for each if it is progressive, and a second
// picture for four components or possible RGB.
func frameBytes(frame []byte, progressive bool, pixels int64) int64 {
	if len(frame) < 6 {
		return 0
	}
	components := int(frame[5])
	most, sum := 1, 0
	for i := range components {
		at := 6 + 3*i + 1
		if at >= len(frame) {
			return 0
		}
		area := int(frame[at]>>4) * int(frame[at]&15) // sampling factors across and down
		most, sum = max(most, area), sum+area
	}
	samples := float64(pixels) * float64(sum) / float64(most)
	bytes := samples
	if progressive {
		bytes += 4 * samples
	}
	switch components {
	case 3:
		if sum == 3*most { // RGB is never subsampled
			bytes += 4 * float64(pixels)
		}
	case 4:
		bytes += 8 * float64(pixels)
	}
	return int64(bytes)
}

// exifOrientation reads the orientation from the payload of an APP1 segment: "Exif", two
// zero bytes, and a TIFF whose first directory has tag 0x0112 (P: Exif 2.3, 4.5.4 and
// 4.6.4). It is 1 where there is none, or none that is known.
func exifOrientation(data []byte) int {
	if len(data) < 14 || string(data[:6]) != "Exif\x00\x00" {
		return 1
	}
	tiff := data[6:]
	var order binary.ByteOrder
	switch string(tiff[:2]) {
	case "II":
		order = binary.LittleEndian
	case "MM":
		order = binary.BigEndian
	default:
		return 1
	}
	at := int64(order.Uint32(tiff[4:]))
	if at+2 > int64(len(tiff)) {
		return 1
	}
	entries := int64(order.Uint16(tiff[at:]))
	for i := range entries {
		e := at + 2 + 12*i
		if e+12 > int64(len(tiff)) {
			return 1
		}
		const tag, short = 0x0112, 3
		if order.Uint16(tiff[e:]) == tag && order.Uint16(tiff[e+2:]) == short {
			if o := int(order.Uint16(tiff[e+8:])); o >= 1 && o <= 8 {
				return o
			}
			return 1
		}
	}
	return 1
}
