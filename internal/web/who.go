package web

import (
	"context"
	"encoding/json"
	"net/http"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"golang.org/x/time/rate"

	"jollysatchel/internal/classroom"
	"jollysatchel/internal/web/api"
)

// A need says who may use a route. What a signed-in person may do with a
// single thing is the cupboard's to say.
type need int

const (
	anybody    need = iota // also without signing in
	signedIn               // any account of the school
	schoolWork             // staff and office
	classOpen              // the class's staff, and the office
	classStaff             // the class's staff
	classHands             // the class's owner and co-teachers
	studentOwn             // students
)

// needs lists every route by its operation. One that is missing is refused.
var needs = map[string]need{
	"SignIn": anybody, "SignOut": anybody, "DemoPeople": anybody, "DemoSignIn": anybody,
	"GetMe": signedIn, "FollowLink": signedIn, "GetThing": signedIn, "GetText": signedIn, "PutText": signedIn,
	"GetContent": signedIn, "ListVersions": signedIn, "AddFile": signedIn, "Render": signedIn,
	"GetHome": studentOwn,
	"Events":  schoolWork, "ListClasses": schoolWork, "CreateClass": schoolWork,
	"Choose": schoolWork, "FindPeople": schoolWork, "CoverNames": schoolWork, "MakePractice": schoolWork,
	"ListTemplates": schoolWork, "UploadTemplate": schoolWork, "WriteTemplate": schoolWork,
	"GetClass": classOpen, "GetRoster": classOpen, "GetRegister": classOpen,
	"GetPanel": classStaff, "GetRoom": classStaff, "ListHandouts": classStaff, "GetHandout": classStaff, "ListRuns": classStaff, "ListMissing": classStaff, "GetRun": classStaff,
	"GetDraft": classHands, "PasteDraft": classHands, "UploadDraft": classHands, "ChangeDraft": classHands, "DropDraft": classHands, "AcceptDraft": classHands,
	"AddStudents": classHands, "EditRoster": classHands, "SetLeft": classHands, "DealTeams": classStaff, "ExportRoster": classOpen, "RosterHistory": classOpen,
	"UndoRoster": classHands, "ListBefore": classHands, "ClearPractice": classHands, "RemoveClass": classHands, "RenameTeam": classHands, "ConfirmAccount": classHands,
	"SetAddress": classHands, "ChangeRoom": classHands, "PackRoom": classHands, "CreateHandout": classHands, "ChangeHandout": classHands,
	"DeleteHandout": classHands, "PackHandout": classHands, "TopUp": classHands, "PauseRun": classHands, "ResumeRun": classHands, "StopRun": classHands, "FixLine": classHands,
}

const (
	accountKey = "account" // in the session, and the gin context
	roleKey    = "role"
	classKey   = "class"
	mineKey    = "mine"
	keyKey     = "key"
)

// session loads who is signed in. It doesn't wrap the answer: events need to
// be flushed as they come.
func (s *Server) session(c *gin.Context) {
	token := ""
	if k, err := c.Request.Cookie(s.sessions.Cookie.Name); err == nil {
		token = k.Value
	}
	ctx, err := s.sessions.Load(c.Request.Context(), token)
	if err != nil {
		s.refuse(c, err)
		return
	}
	c.Request = c.Request.WithContext(ctx)
	c.Header("Cache-Control", "no-store")
	if c.ContentType() != "multipart/form-data" {
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 80<<20)
	} else {
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, MaxUpload)
	}
}

// guard asks on every route whether whoever is there may use it.
func (s *Server) guard(next api.StrictHandlerFunc, operation string) api.StrictHandlerFunc {
	n, listed := needs[operation]
	return func(c *gin.Context, request any) (any, error) {
		if !listed {
			return nil, classroom.ErrNotFound
		}
		if n == anybody {
			return next(c, request)
		}
		account := s.sessions.GetString(c.Request.Context(), accountKey)
		if account == "" {
			return nil, errSignIn
		}
		if !s.pace.allow(account) {
			return nil, errPace
		}
		role := classroom.Role(s.sessions.GetString(c.Request.Context(), roleKey))
		c.Set(accountKey, account)
		c.Set(roleKey, role)
		switch {
		case n == studentOwn && role != classroom.AStudent,
			n >= schoolWork && n <= classHands && role == classroom.AStudent:
			return nil, classroom.ErrNotFound
		case n >= classOpen && n <= classHands:
			if err := s.enterClass(c, account, role, n); err != nil {
				return nil, err
			}
		}
		if key := c.GetHeader("Idempotency-Key"); key != "" && c.Request.Method != http.MethodGet {
			if len(key) > maxKey {
				return nil, &classroom.Invalid{Field: "Idempotency-Key", Code: "too-long"}
			}
			c.Set(keyKey, key)
			c.Request = c.Request.WithContext(classroom.Asked(c.Request.Context(), key, content(operation, request)))
		}
		return next(c, request)
	}
}

// maxKey is the longest key, in bytes, that names an asking.
const maxKey = 100

// content is what a request asks for, without what can be read only once.
func content(operation string, request any) string {
	b, err := json.Marshal(request)
	if err != nil {
		return operation // a file: its route says what is in it
	}
	return operation + string(b)
}

// whose names the classes somebody may look into: their own by account, every
// class, an empty name, for the office.
func whose(ctx context.Context) string {
	if role, _ := asGin(ctx).Get(roleKey); role == classroom.Office {
		return ""
	}
	return account(ctx)
}

// about says what a request asks for whose content can be read only once.
func about(ctx context.Context, what any) context.Context {
	if key := asGin(ctx).GetString(keyKey); key != "" {
		return classroom.Asked(ctx, key, what)
	}
	return ctx
}

// enterClass finds what the account is in the route's class. Whoever has no
// business there gets the same answer as for a class that doesn't exist.
func (s *Server) enterClass(c *gin.Context, account string, role classroom.Role, n need) error {
	id := c.Param("classId")
	mine, err := s.Rooms.Standing(c, id, account)
	switch {
	case err != nil:
		return err
	case mine == "" && role == classroom.Office && n == classOpen:
		mine = string(classroom.Office)
	case mine == "", mine == classroom.Assists && n == classHands:
		return classroom.ErrNotFound
	}
	c.Set(classKey, id)
	c.Set(mineKey, mine)
	return nil
}

// A limiter allows each name so many events a second, with a burst.
type limiter struct {
	mu    sync.Mutex
	rate  rate.Limit
	burst int
	names map[string]*rate.Limiter
	swept time.Time
}

func newLimiter(perSecond float64, burst int) *limiter {
	return &limiter{rate: rate.Limit(perSecond), burst: burst, names: map[string]*rate.Limiter{}}
}

func (l *limiter) allow(name string) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	now := time.Now()
	if now.Sub(l.swept) > time.Minute { // forget who has all tries again
		for k, v := range l.names {
			if v.TokensAt(now) >= float64(l.burst) {
				delete(l.names, k)
			}
		}
		l.swept = now
	}
	one, ok := l.names[name]
	if !ok {
		one = rate.NewLimiter(l.rate, l.burst)
		l.names[name] = one
	}
	return one.AllowN(now, 1)
}
