package tables

import (
	"archive/zip"
	"bytes"
	"io"
)

func isZip(b []byte) bool {
	return bytes.HasPrefix(b, []byte("PK\x03\x04")) || bytes.HasPrefix(b, []byte("PK\x05\x06"))
}

// A pack is an opened ZIP whose members are unpacked within limits.
type pack struct {
	*zip.Reader
	left int64 // bytes that may still be unpacked
}

// unpack opens a ZIP. What it says it swells to is checked at once; what it
// really swells to while members are read.
func unpack(b []byte) (*pack, error) {
	r, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return nil, &Error{Code: "damaged", Args: map[string]string{"what": "its table of contents can't be read"}}
	}
	var whole uint64
	for _, f := range r.File {
		whole += f.UncompressedSize64
		if whole > maxUnpacked {
			return nil, &Error{Code: "swells"}
		}
	}
	return &pack{r, maxUnpacked}, nil
}

// has reports whether the ZIP has a member of that name.
func has(b []byte, member string) bool {
	if !isZip(b) {
		return false
	}
	r, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return false
	}
	for _, f := range r.File {
		if f.Name == member {
			return true
		}
	}
	return false
}

// member returns what is in a member.
func (p *pack) member(name string) ([]byte, error) {
	f, err := p.Open(name)
	if err != nil {
		return nil, &Error{Code: "archive-lacks", Args: map[string]string{"file": name}}
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, p.left+1))
	if err != nil {
		return nil, &Error{Code: "damaged", Args: map[string]string{"what": name + " can't be unpacked"}}
	}
	if p.left -= int64(len(b)); p.left < 0 {
		return nil, &Error{Code: "swells"}
	}
	return b, nil
}
