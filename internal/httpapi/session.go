package httpapi

import (
	"context"
	"net/http"

	"github.com/gin-gonic/gin"

	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/shop"
)

func (a *api) ListPeople(ctx context.Context, _ apigen.ListPeopleRequestObject) (apigen.ListPeopleResponseObject, error) {
	people, err := a.Shop.People(ctx)
	return apigen.ListPeople200JSONResponse(people), err
}

func (a *api) GetSession(ctx context.Context, _ apigen.GetSessionRequestObject) (apigen.GetSessionResponseObject, error) {
	view, err := a.Shop.Session(ctx, actor(ctx))
	return apigen.GetSession200JSONResponse(view), err
}

func (a *api) SignIn(ctx context.Context, req apigen.SignInRequestObject) (apigen.SignInResponseObject, error) {
	device := ""
	if req.Body.Device != nil {
		device = *req.Body.Device
	}
	view, token, err := a.Shop.SignIn(ctx, req.Body.PersonId, req.Body.Pin, device, tokenOf(request(ctx)))
	if err != nil {
		return nil, err
	}
	cookie := a.cookie(string(token), 0).String()
	return apigen.SignIn200JSONResponse{Body: view, Headers: apigen.SignIn200ResponseHeaders{SetCookie: &cookie}}, nil
}

func (a *api) SignOut(ctx context.Context, _ apigen.SignOutRequestObject) (apigen.SignOutResponseObject, error) {
	if err := a.Shop.SignOut(ctx, tokenOf(request(ctx))); err != nil {
		return nil, err
	}
	cookie := a.cookie("", -1).String()
	return apigen.SignOut204Response{Headers: apigen.SignOut204ResponseHeaders{SetCookie: &cookie}}, nil
}

// cookie is the session's cookie. It ends with the browser; the shop's idle time ends it sooner.
func (a *api) cookie(value string, maxAge int) *http.Cookie {
	return &http.Cookie{Name: cookieName, Value: value, Path: "/", MaxAge: maxAge, HttpOnly: true, SameSite: http.SameSiteStrictMode,
		Secure: a.PublicURL != nil && a.PublicURL.Scheme == "https"}
}

// request returns the request that a strict handler answers.
func request(ctx context.Context) *http.Request {
	c, ok := ctx.(*gin.Context)
	if !ok {
		panic("a strict handler's context is gin's")
	}
	return c.Request
}

// deed is the key that the sender gave to a write, if any.
func deed(key *apigen.IdempotencyKey) shop.Deed {
	if key == nil {
		return ""
	}
	return shop.Deed(*key)
}

// valueOr returns what v points at, or otherwise.
func valueOr[T any](v *T, otherwise T) T {
	if v == nil {
		return otherwise
	}
	return *v
}
