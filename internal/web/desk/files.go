package desk

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"jollysatchel/internal/calendar"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/core/words"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/usecase/seam"
)

// Export writes a table of the route's class in a format as a file to keep.
func (s *Desk) Export(ctx context.Context, format, what string, rows func(picture.Class) ([][]string, error)) (File, error) {
	c, err := s.Class(ctx)
	if err != nil {
		return File{}, err
	}
	return AsFile(ctx, format, c.Name, what, func() ([][]string, error) { return rows(c) })
}

// AsFile writes a table in a format as a file to keep, called by whose and what it is.
func AsFile(ctx context.Context, format, whose, what string, rows func() ([][]string, error)) (File, error) {
	as := tables.Writing(format)
	if !slices.Contains([]tables.Writing{tables.CSV, tables.XLSX, tables.ODS}, as) {
		return File{}, seam.ErrNotFound
	}
	table, err := rows()
	if err != nil {
		return File{}, err
	}
	var b bytes.Buffer
	if err := tables.Write(&b, as, whose, table); err != nil {
		return File{}, err
	}
	Gin(ctx).Header("Content-Disposition", Disposition(whose+" – "+what+"."+string(as)))
	return File{b.Bytes(), as.MediaType()}, nil
}

// Site is the address that links begin with: what the school's settings say, else the one
// under which it is asked now.
func (s *Desk) Site(ctx context.Context) string {
	if is := s.School(); is.SiteSaid {
		return is.Site
	}
	return s.Base(ctx)
}

// Base is the address under which the application is asked, without a path. The
// name in it is one it serves.
func (s *Desk) Base(ctx context.Context) string {
	c := Gin(ctx)
	u := url.URL{Scheme: "http", Host: c.Request.Host}
	if s.Secure(c) {
		u.Scheme = "https"
	}
	return u.String()
}

// MostSamples of what would be made are named for each class.
const MostSamples = 4

// AsCalendar is due times as a file to keep.
func (s *Desk) AsCalendar(ctx context.Context, name string, dues []register.Due) (File, error) {
	site := s.Site(ctx)
	host := "jolly.invalid"
	if u, err := url.Parse(site); err == nil {
		host = cmp.Or(u.Hostname(), host)
	}
	events := make([]calendar.Event, len(dues))
	for i, d := range dues {
		link := site + "/classes/" + d.Handout.ClassID + "/handouts/" + d.Handout.ID
		if d.Thing != "" {
			link = site + "/things/" + d.Thing
		}
		events[i] = calendar.Event{UID: d.Handout.ID + "@" + host, At: d.At, Changed: d.Handout.ChangedAt, Link: link,
			Text: d.Handout.Settings.Message, Title: words.Fill(words.English.Reason["is-due"], "title", d.Handout.Title, "class", d.Class)}
	}
	var b bytes.Buffer
	if err := calendar.Write(&b, name, events); err != nil {
		return File{}, err
	}
	Gin(ctx).Header("Content-Disposition", Disposition(name+".ics"))
	return File{b.Bytes(), calendar.MediaType}, nil
}

// VisitGetCalendarResponse implements api.GetCalendarResponseObject.
func (e File) VisitGetCalendarResponse(w http.ResponseWriter) error { return e.visit(w) }

// VisitGetClassCalendarResponse implements api.GetClassCalendarResponseObject.
func (e File) VisitGetClassCalendarResponse(w http.ResponseWriter) error { return e.visit(w) }

// A File is a file that is sent whole, as what it is.
type File struct {
	body      []byte
	mediaType string
}

func (e File) visit(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", e.mediaType)
	_, err := w.Write(e.body)
	return err
}

// VisitExportRosterResponse implements api.ExportRosterResponseObject.
func (e File) VisitExportRosterResponse(w http.ResponseWriter) error { return e.visit(w) }

// VisitExportSchoolLogResponse implements api.ExportSchoolLogResponseObject.
func (e File) VisitExportSchoolLogResponse(w http.ResponseWriter) error { return e.visit(w) }

// VisitExportLogResponse implements api.ExportLogResponseObject.
func (e File) VisitExportLogResponse(w http.ResponseWriter) error { return e.visit(w) }

// VisitExportReachEverywhereResponse implements api.ExportReachEverywhereResponseObject.
func (e File) VisitExportReachEverywhereResponse(w http.ResponseWriter) error { return e.visit(w) }

// VisitExportReachResponse implements api.ExportReachResponseObject.
func (e File) VisitExportReachResponse(w http.ResponseWriter) error { return e.visit(w) }

// VisitExportDoorsResponse implements api.ExportDoorsResponseObject.
func (e File) VisitExportDoorsResponse(w http.ResponseWriter) error { return e.visit(w) }

// VisitExportLedgerResponse implements api.ExportLedgerResponseObject.
func (e File) VisitExportLedgerResponse(w http.ResponseWriter) error { return e.visit(w) }

// VisitExportLinksResponse implements api.ExportLinksResponseObject.
func (e File) VisitExportLinksResponse(w http.ResponseWriter) error { return e.visit(w) }

// VisitExportRegisterResponse implements api.ExportRegisterResponseObject.
func (e File) VisitExportRegisterResponse(w http.ResponseWriter) error { return e.visit(w) }

// An Upload is the file of a form. Reading it ends with io.EOF only where the
// form ended as forms do: one that was cut off on the way is ErrCut.
type Upload struct {
	Name  string
	part  *multipart.Part
	form  *multipart.Reader
	whole bool // its end was seen
}

// Read implements io.Reader.
func (u *Upload) Read(p []byte) (int, error) {
	if u.whole {
		return 0, io.EOF
	}
	n, err := u.part.Read(p)
	for err == io.EOF {
		if _, end := u.form.NextPart(); end == io.EOF {
			u.whole = true
			return n, io.EOF
		} else if end != nil {
			err = end
		}
	}
	var large *http.MaxBytesError
	if err != nil && !errors.As(err, &large) {
		err = ErrCut
	}
	return n, err
}

// mostName is the longest name of a file, in bytes, that is taken; what it is
// called then is as long as names of files may be.
const mostName = 1000

// FormFile returns the part named file of a form, and the value of key where
// it is before it.
func FormFile(r *multipart.Reader) (f *Upload, key string, err error) {
	for range 10 {
		p, err := r.NextPart()
		var large *http.MaxBytesError
		if errors.As(err, &large) {
			return nil, "", err
		}
		if err != nil {
			return nil, "", change.Refuse("file", "missing")
		}
		switch p.FormName() {
		case "file":
			name := p.FileName()
			switch {
			case !utf8.ValidString(name) || strings.ContainsRune(name, 0):
				return nil, "", &Wrong{Status: http.StatusBadRequest, Field: "file", Code: "no-such-letter", Args: nil}
			case len(name) > mostName:
				return nil, "", change.TooLong("file", mostName)
			}
			return &Upload{Name: name, part: p, form: r}, key, nil
		case "key":
			b, err := io.ReadAll(io.LimitReader(p, maxKey+1))
			if err != nil {
				return nil, "", BadRequest(err)
			}
			if key = string(b); len(key) > maxKey || !utf8.ValidString(key) || strings.ContainsRune(key, 0) {
				return nil, "", &Wrong{Status: http.StatusBadRequest, Field: "key", Code: "too-long",
					Args: map[string]string{"most": strconv.Itoa(maxKey)}}
			}
		}
	}
	return nil, "", change.Refuse("file", "missing")
}

// QueryVersion is the version that is asked for; 0 where none is: the newest.
func QueryVersion(v *int) int {
	if v == nil || *v < 0 {
		return 0
	}
	return *v
}

// Disposition has a browser keep an answer as a file of a name (RFC 6266).
func Disposition(name string) string {
	return "attachment; filename*=UTF-8''" + url.PathEscape(name)
}
