// What other scripts put on the window.
interface Window {
  Alpine: any;
  ImageDecoder?: any;
  htmx?: any;
}
