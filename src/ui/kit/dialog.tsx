"use client";
import { Modal, type ModalProps } from "react-bootstrap";

/**
 * A dialog. It is there and gone at once: nobody who opens many a day waits for a fade, and one that is closed while it fades in could stay for good (the end of
 * a transition within it was taken for its own).
 */
export function Dialog(props: ModalProps) {
  return <Modal {...props} animation={false} />;
}
