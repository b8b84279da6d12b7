package tables

import (
	"archive/zip"
	"bytes"
	"io"
)

func isZip(b []byte) bool {
	return bytes.HasPrefix(b, []byte("PK\x03\x04")) || bytes.HasPrefix(b, []byte("PK\x05\x06"))
}

// A pack is an opened ZIP whose members together unpack to no more than maxUnpacked.
type pack struct{ *zip.Reader }

// unpack opens a ZIP. What it says it swells to is checked at once; a member
// that swells to more than it says can't be read.
func unpack(b []byte) (*pack, error) {
	r, err := opened(b)
	if err != nil {
		return nil, err
	}
	var whole uint64
	for _, f := range r.File {
		whole += f.UncompressedSize64
		if whole > maxUnpacked {
			return nil, &Error{Code: "swells"}
		}
	}
	return &pack{r}, nil
}

// opened reads the table of contents of a ZIP, where it isn't endless.
func opened(b []byte) (*zip.Reader, error) {
	if bytes.Count(b, []byte("PK\x01\x02")) > maxMembers {
		return nil, &Error{Code: "swells"}
	}
	r, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return nil, &Error{Code: "damaged", Args: map[string]string{"what": "its table of contents can't be read"}}
	}
	return r, nil
}

// has reports whether the ZIP has a member of that name.
func has(b []byte, member string) bool {
	if !isZip(b) {
		return false
	}
	r, err := opened(b)
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

// walk unpacks a member and scans it.
func walk(f *zip.File, left *budget, do func(tag, []byte) error) error {
	r, err := f.Open()
	if err != nil {
		return &Error{Code: "damaged", Args: map[string]string{"what": f.Name}}
	}
	defer r.Close()
	return scanXML(r, f.Name, left, do)
}

// open opens a member.
func (p *pack) open(name string) (io.ReadCloser, error) {
	f, err := p.Open(name)
	if err != nil {
		return nil, &Error{Code: "archive-lacks", Args: map[string]string{"file": name}}
	}
	return f, nil
}

// member returns what is in a small member.
func (p *pack) member(name string, most int64) ([]byte, error) {
	f, err := p.open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, most+1))
	if err != nil {
		return nil, &Error{Code: "damaged", Args: map[string]string{"what": name + " can't be unpacked"}}
	}
	if int64(len(b)) > most {
		return nil, &Error{Code: "swells"}
	}
	return b, nil
}
