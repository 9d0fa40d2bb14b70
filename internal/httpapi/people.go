package httpapi

import (
	"context"
	"encoding/json"
	"net"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
)

func (a *api) ListPeople(ctx context.Context, _ apigen.ListPeopleRequestObject) (apigen.ListPeopleResponseObject, error) {
	people, err := a.Shop.ListPeople(ctx)
	return apigen.ListPeople200JSONResponse(people), err
}

func (a *api) SetWay(ctx context.Context, req apigen.SetWayRequestObject) (apigen.SetWayResponseObject, error) {
	person, err := a.Shop.SetWay(ctx, actor(ctx), req.Person, req.Body.Way)
	return apigen.SetWay200JSONResponse(person), err
}

func (a *api) ListStaff(ctx context.Context, _ apigen.ListStaffRequestObject) (apigen.ListStaffResponseObject, error) {
	staff, err := a.Shop.Staff(ctx)
	return apigen.ListStaff200JSONResponse(staff), err
}

func (a *api) AddPerson(ctx context.Context, req apigen.AddPersonRequestObject) (apigen.AddPersonResponseObject, error) {
	member, err := a.Shop.AddStaff(ctx, actor(ctx), *req.Body)
	return apigen.AddPerson201JSONResponse(member), err
}

func (a *api) ChangePerson(ctx context.Context, req apigen.ChangePersonRequestObject) (apigen.ChangePersonResponseObject, error) {
	member, err := a.Shop.ChangeStaff(ctx, actor(ctx), req.Person, *req.Body)
	return apigen.ChangePerson200JSONResponse(member), err
}

func (a *api) ListDevices(ctx context.Context, _ apigen.ListDevicesRequestObject) (apigen.ListDevicesResponseObject, error) {
	devices, err := a.Shop.Devices(ctx, actor(ctx))
	return apigen.ListDevices200JSONResponse(devices), err
}

func (a *api) NameDevice(ctx context.Context, req apigen.NameDeviceRequestObject) (apigen.NameDeviceResponseObject, error) {
	devices, err := a.Shop.NameDevice(ctx, actor(ctx), req.Device, req.Body.Name)
	return apigen.NameDevice200JSONResponse(devices), err
}

func (a *api) SignOutDevice(ctx context.Context, req apigen.SignOutDeviceRequestObject) (apigen.SignOutDeviceResponseObject, error) {
	devices, err := a.Shop.SignOutDevice(ctx, actor(ctx), req.Device)
	return apigen.SignOutDevice200JSONResponse(devices), err
}

func (a *api) GetPermissions(ctx context.Context, _ apigen.GetPermissionsRequestObject) (apigen.GetPermissionsResponseObject, error) {
	table, err := a.Shop.Permissions(ctx)
	return apigen.GetPermissions200JSONResponse(table), err
}

func (a *api) ChangePermissions(ctx context.Context, req apigen.ChangePermissionsRequestObject) (apigen.ChangePermissionsResponseObject, error) {
	table, err := a.Shop.ChangePermissions(ctx, actor(ctx), req.Body.Version, req.Body.Rows)
	return apigen.ChangePermissions200JSONResponse(table), err
}

func (a *api) SetOwnSecret(ctx context.Context, req apigen.SetOwnSecretRequestObject) (apigen.SetOwnSecretResponseObject, error) {
	r, who := request(ctx), actor(ctx)
	err := a.Shop.SetOwnSecret(ctx, who, req.Body.Now, req.Body.Then, people.Attempt{Device: who.DeviceID, Address: addressOf(r)}, tokenOf(r))
	return apigen.SetOwnSecret204Response{}, err
}

func (a *api) GetSession(ctx context.Context, _ apigen.GetSessionRequestObject) (apigen.GetSessionResponseObject, error) {
	view, err := a.Shop.Session(ctx, actor(ctx))
	return apigen.GetSession200JSONResponse(view), err
}

func (a *api) SignIn(ctx context.Context, req apigen.SignInRequestObject) (apigen.SignInResponseObject, error) {
	return a.signInHere(ctx, req.Body.PersonId, req.Body.Pin, people.Caller{Name: valueOr(req.Body.Device, ""), Unsent: valueOr(req.Body.Unsent, nil)}, http.StatusOK)
}

// signInHere opens a session for the browser that asks.
func (a *api) signInHere(ctx context.Context, person uuid.UUID, secret string, from people.Caller, status int) (signedInResponse, error) {
	r := request(ctx)
	from.Session, from.Device, from.Address = tokenOf(r), cookieOf(r, deviceCookie), addressOf(r)
	in, err := a.Shop.SignIn(ctx, person, secret, from)
	if err != nil {
		return signedInResponse{}, err
	}
	also := func(name string, value people.Token, kept time.Duration) { // beside the session's, which the contract names
		cookie := a.cookie(string(value), 0)
		cookie.Name, cookie.MaxAge = name, int(kept/time.Second)
		ginOf(ctx).Writer.Header().Add("Set-Cookie", cookie.String())
	}
	if in.Device != "" {
		also(deviceCookie, in.Device, deviceKept)
	}
	also(penCookie(person), in.Pen, record.AnswersKept)
	return signedInResponse{view: in.View, cookie: a.cookie(string(in.Session), 0).String(), status: status}, nil
}

// signedInResponse adds the session's cookie beside the device's: the generated answer would put it in its place.
type signedInResponse struct {
	view   people.SessionView
	cookie string
	status int
}

func (a *api) DropUnsent(ctx context.Context, req apigen.DropUnsentRequestObject) (apigen.DropUnsentResponseObject, error) {
	return apigen.DropUnsent204Response{}, a.Shop.DropUnsent(ctx, actor(ctx), *req.Body)
}

func (a *api) SignOut(ctx context.Context, req apigen.SignOutRequestObject) (apigen.SignOutResponseObject, error) {
	r := request(ctx)
	from := people.Caller{Session: tokenOf(r), Device: cookieOf(r, deviceCookie), Unsent: valueOr(req.Params.Unsent, nil)}
	if err := a.Shop.SignOut(ctx, from); err != nil {
		return nil, err
	}
	cookie := a.cookie("", -1).String()
	return apigen.SignOut204Response{Headers: apigen.SignOut204ResponseHeaders{SetCookie: &cookie}}, nil
}

// cookie is the session's cookie. It ends with the browser; the shop's idle time ends it sooner.
func (a *api) cookie(value string, maxAge int) *http.Cookie {
	return &http.Cookie{Name: cookieName, Value: value, Path: "/", MaxAge: maxAge, HttpOnly: true, SameSite: http.SameSiteStrictMode,
		Secure: a.Secure || a.PublicURL != nil && a.PublicURL.Scheme == "https"}
}

// request returns the request that a strict handler answers.
func request(ctx context.Context) *http.Request { return ginOf(ctx).Request }

func ginOf(ctx context.Context) *gin.Context {
	c, ok := ctx.(*gin.Context)
	if !ok {
		panic("a strict handler's context is gin's")
	}
	return c
}

// VisitSignInResponse writes the answer.
func (r signedInResponse) VisitSignInResponse(w http.ResponseWriter) error {
	w.Header().Add("Set-Cookie", r.cookie)
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(r.status)
	return json.NewEncoder(w).Encode(r.view)
}

// VisitSetUpShopResponse writes the answer.
func (r signedInResponse) VisitSetUpShopResponse(w http.ResponseWriter) error {
	return r.VisitSignInResponse(w)
}

// addressOf is where a request comes from, without its port.
func addressOf(r *http.Request) string {
	address, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		return r.RemoteAddr
	}
	return address
}
