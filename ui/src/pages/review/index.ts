export { ReviewList } from "./ReviewList";
export { ReviewPage } from "./ReviewPage";
