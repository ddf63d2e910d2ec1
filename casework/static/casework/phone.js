// The phone's page: a chosen photograph is sent at once.
const form = document.querySelector("[data-phone-form]");
form?.querySelectorAll("input[type=file]").forEach((input) => input.addEventListener("change", () => {
  if (!input.files.length) return;
  form.querySelectorAll("input[type=file]").forEach((other) => { if (other !== input) other.disabled = true; });
  document.querySelector(".phone-going").hidden = false;
  form.submit();
}));
